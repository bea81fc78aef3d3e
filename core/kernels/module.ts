import { kernelsBase64 } from './wasm.generated'

/** What the compiled module offers. Pointers are byte offsets into its memory; see `assembly/`. */
interface KernelExports {
  readonly memory: WebAssembly.Memory
  heapBase(): number
  convolveRows(
    src: number,
    dst: number,
    width: number,
    height: number,
    channels: number,
    taps: number,
    radius: number,
  ): void
  convolveColumns(
    src: number,
    dst: number,
    width: number,
    height: number,
    channels: number,
    taps: number,
    radius: number,
  ): void
  gatherBilinear(
    src: number,
    width: number,
    height: number,
    channels: number,
    xy: number,
    count: number,
    dst: number,
  ): void
  gatherBicubic(
    src: number,
    width: number,
    height: number,
    channels: number,
    xy: number,
    count: number,
    dst: number,
  ): void
  warpProjective(
    src: number,
    width: number,
    height: number,
    channels: number,
    dst: number,
    dstWidth: number,
    dstHeight: number,
    matrix: number,
    cubic: number,
  ): void
  integersToFloats8(src: number, dst: number, count: number): void
  integersToFloats16(src: number, dst: number, count: number): void
  alignStep(
    src: number,
    width: number,
    height: number,
    matrix: number,
    n: number,
    xy: number,
    template: number,
    weights: number,
    descent: number,
    p: number,
    gain: number,
    offset: number,
    isRobust: number,
    scale: number,
    out: number,
  ): void
  searchShift(
    src: number,
    width: number,
    height: number,
    matrix: number,
    n: number,
    xy: number,
    template: number,
    weights: number,
    reach: number,
    step: number,
    out: number,
  ): void
  planeFromSamples(
    src: number,
    is16: number,
    count: number,
    channels: number,
    red: number,
    green: number,
    blue: number,
    scale: number,
    dst: number,
  ): void
  halvePlane(src: number, width: number, height: number, scratch: number, dst: number): void
  membraneSweep(
    n: number,
    nb: number,
    w: number,
    inverse: number,
    b: number,
    x: number,
    isBackward: number,
  ): void
  membraneApplyDot(
    n: number,
    nb: number,
    w: number,
    diagonal: number,
    x: number,
    out: number,
    products: number,
  ): void
  membraneStep(n: number, factor: number, d: number, a: number, x: number, r: number, products: number): void
  membraneRestrict(
    n: number,
    nb: number,
    w: number,
    diagonal: number,
    b: number,
    x: number,
    parent: number,
    coarse: number,
  ): void
  membraneProlong(n: number, parent: number, coarse: number, x: number): void
  membraneBlend(n: number, scale: number, y: number, factor: number, x: number): void
  membraneDot(n: number, x: number, y: number, out: number): void
  medianCodes(src: number, count: number, codes: number): void
  medianNodes(
    codes: number,
    known: number,
    width: number,
    height: number,
    channels: number,
    chords: number,
    radius: number,
    firstCol: number,
    firstRow: number,
    cols: number,
    rows: number,
    step: number,
    work: number,
    out: number,
    counts: number,
  ): void
  patchDistances(
    features: number,
    width: number,
    radius: number,
    list: number,
    count: number,
    field: number,
    out: number,
  ): void
  patchSearch(
    features: number,
    valid: number,
    width: number,
    height: number,
    radius: number,
    list: number,
    count: number,
    field: number,
    distances: number,
    reach: number,
    pass: number,
    seed: number,
    apart: number,
    stride: number,
  ): void
  patchVote(
    features: number,
    width: number,
    height: number,
    radius: number,
    stride: number,
    targets: number,
    count: number,
    field: number,
    weights: number,
    out: number,
  ): void
  patchShifts(
    width: number,
    height: number,
    radius: number,
    stride: number,
    targets: number,
    count: number,
    field: number,
    weights: number,
    work: number,
    shifts: number,
    shares: number,
  ): void
  grainWhite(
    seed: number,
    frame: number,
    col: number,
    row: number,
    width: number,
    height: number,
    channels: number,
    isMade: number,
    out: number,
  ): void
  readThrough(
    src: number,
    col: number,
    row: number,
    width: number,
    height: number,
    channels: number,
    taboo: number,
    matrix: number,
    xy: number,
    count: number,
    dst: number,
    kept: number,
  ): void
  joinReadings(
    values: number,
    kept: number,
    weights: number,
    frames: number,
    count: number,
    channels: number,
    tolerance: number,
    order: number,
    out: number,
    variance: number,
    seen: number,
    agree: number,
  ): void
  exp(x: number): number
  log(x: number): number
  pow(x: number, y: number): number
  sin(x: number): number
  cos(x: number): number
  atan2(y: number, x: number): number
}

function instantiate(): KernelExports {
  const binary = atob(kernelsBase64)
  const bytes = new Uint8Array(binary.length)
  for (let i = 0; i < binary.length; i++) bytes[i] = binary.charCodeAt(i)
  const instance = new WebAssembly.Instance(new WebAssembly.Module(bytes), {})
  return instance.exports as unknown as KernelExports
}

let loaded: KernelExports | undefined

/** The compiled kernels, made ready on first use: one instance per thread. */
export function kernels(): KernelExports {
  loaded ??= instantiate()
  return loaded
}
