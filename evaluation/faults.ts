/** Faults planted in mends that are right, as artists make them: each on some frames, from a seed. */
import type { Mend } from '../core/document/mend'
import { gaussianTaps, convolveSeparable } from '../core/image/convolve'
import { rasterFromSamples, samplesFromRaster, type Samples } from '../core/image/samples'
import { createRandom } from '../demo/random'
import { isKeyed, type Area } from '../core/document/areas'

/** What is wrong with a frame: its mends, or its finished pixels. */
export interface Fault {
  readonly kind: string
  /** In words: by how much. */
  readonly size: string
  readonly firstFrame: number
  readonly lastFrame: number
  mendAt?(mend: Mend, frame: number): Mend
  /** @param mended  For each pixel, whether a mend has laid anything. */
  pixelsAt?(finished: Samples, mended: Uint8Array, frame: number): Samples
}

const moved = (area: Area, dx: number, dy: number): Area =>
  changed(area, ({ x, y, ...point }) => ({ ...point, x: x + dx, y: y + dy }))

/** Every point of every key changed; of other shapes nothing. */
function changed<P extends { readonly x: number; readonly y: number }>(
  area: Area,
  change: (point: P, middle: { readonly x: number; readonly y: number }) => P,
): Area {
  if (!isKeyed(area) || !('points' in area.keys[0]!)) return area
  const keys = (area.keys as unknown as { frame: number; points: P[] }[]).map((key) => {
    const middle = {
      x: key.points.reduce((sum, { x }) => sum + x, 0) / key.points.length,
      y: key.points.reduce((sum, { y }) => sum + y, 0) / key.points.length,
    }
    return { ...key, points: key.points.map((point) => change(point, middle)) }
  })
  return { ...area, keys } as unknown as Area
}

const withAreas = (mend: Mend, change: (area: Area) => Area): Mend => ({
  ...mend,
  areas: mend.areas.map(change),
})

/** Only the key of one frame is changed: what other frames take from here stays as it was. */
function onFrame(mend: Mend, frame: number, change: (area: Area) => Area): Mend {
  return withAreas(mend, (area) => {
    if (!isKeyed(area)) return area
    const wrong = change(area)
    const keys = area.keys.map((key, i) => (key.frame === frame && isKeyed(wrong) ? wrong.keys[i]! : key))
    return { ...area, keys } as Area
  })
}

const isPath = ({ areas }: Mend): boolean => areas[0]!.shape === 'path'

/** The faults of a seed, one of each kind. @param frames  On which the thing is there. */
export function faultsOf(frames: readonly number[], mends: readonly Mend[], seed: number): Fault[] {
  const random = createRandom(seed)
  const between = (low: number, high: number) => low + random() * (high - low)
  const window = (least: number, most: number) => {
    const length = Math.min(frames.length, Math.round(between(least, most)))
    const begin = Math.floor(random() * (frames.length - length + 1))
    return { firstFrame: frames[begin]!, lastFrame: frames[begin + length - 1]! }
  }
  const way = () => {
    const angle = between(0, 2 * Math.PI)
    return [Math.cos(angle), Math.sin(angle)] as const
  }
  const sign = () => (random() < 0.5 ? -1 : 1)
  const paths = isPath(mends[0]!)
  const all: Fault[] = []
  const add = (kind: string, size: string, range: { firstFrame: number; lastFrame: number }, how: Pick<Fault, 'mendAt' | 'pixelsAt'>) => all.push({ kind, size, ...range, ...how }) // prettier-ignore

  {
    const [[ux, uy], px] = [way(), between(2, 8) + (paths ? 0 : 8)]
    add('area-off', `${px.toFixed(1)} px`, window(2, 5), {
      mendAt: (mend, frame) => onFrame(mend, frame, (area) => moved(area, px * ux, px * uy)),
    })
  }
  {
    // The key that was forgotten: straight on from where it was last placed.
    const range = window(5, 9)
    add('key-missed', `${range.lastFrame - range.firstFrame} frames`, range, {
      mendAt: (mend, frame) =>
        withAreas(mend, (area) => {
          if (!isKeyed(area)) return area
          const last = [...area.keys].reverse().find((key) => key.frame < range.firstFrame) ?? area.keys[0]!
          return {
            ...area,
            keys: area.keys.map((key) => (key.frame === frame ? { ...last, frame } : key)),
          } as Area
        }),
    })
  }
  {
    const [range, [ux, uy], px] = [window(6, 10), way(), between(0.8, 2)]
    add('track-slipped', `${px.toFixed(1)} px a frame`, range, {
      mendAt(mend, frame) {
        const far = px * (frame - range.firstFrame + 1)
        return onFrame(mend, frame, (area) => moved(area, far * ux, far * uy))
      },
    })
  }
  {
    const by = paths ? between(0.45, 0.8) : between(0.75, 0.92)
    add('narrow', `× ${by.toFixed(2)}`, window(4, 8), {
      mendAt: (mend, frame) =>
        onFrame(mend, frame, (area) =>
          area.shape === 'path'
            ? changed<{ x: number; y: number; widthPx: number }>(area, (point) => ({ ...point, widthPx: by * point.widthPx })) // prettier-ignore
            : changed(area, (point, middle) => ({
                ...point,
                x: middle.x + by * (point.x - middle.x),
                y: middle.y + by * (point.y - middle.y),
              })),
        ),
    })
  }
  {
    const stops = sign() * between(0.05, 0.5)
    add('exposure', `${stops.toFixed(2)} stops`, window(3, 8), {
      mendAt: (mend) => ({ ...mend, finish: { ...mend.finish, exposureStops: stops } }),
    })
  }
  {
    const grain = random() < 0.5 ? 0 : 2
    add(grain === 0 ? 'grain-little' : 'grain-much', `× ${grain}`, window(4, 8), {
      mendAt: (mend) => ({ ...mend, finish: { ...mend.finish, grain } }),
    })
  }
  {
    const px = between(2, 5)
    const range = window(4, 8)
    add('rim-pumps', `± ${px.toFixed(1)} px`, range, {
      mendAt: (mend, frame) => ({
        ...mend,
        finish: {
          ...mend.finish,
          growPx: mend.finish.growPx + ((frame - range.firstFrame) % 2 === 0 ? -px : px),
        },
      }),
    })
  }
  {
    const strength = between(0.55, 0.92)
    add('ghost', `${Math.round(100 - 100 * strength)} % left`, window(3, 8), {
      mendAt: (mend) => ({ ...mend, finish: { ...mend.finish, strength } }),
    })
  }
  {
    const sigma = between(1.2, 3)
    const taps = gaussianTaps(sigma)
    add('soft', `σ ${sigma.toFixed(1)} px`, window(4, 8), {
      pixelsAt(finished, mended) {
        const soft = samplesFromRaster(convolveSeparable(rasterFromSamples(finished), taps, taps), finished.data.BYTES_PER_ELEMENT === 1 ? 8 : 16) // prettier-ignore
        return { ...finished, data: finished.data.map((value, i) => (mended[Math.floor(i / finished.channels)] === 1 ? soft.data[i]! : value)) } // prettier-ignore
      },
    })
  }
  {
    // Runs on after its use: over ground where the thing is not, moved aside by more than it is wide.
    const range = window(3, 6)
    const [dx, dy] = [sign() * between(60, 160), sign() * between(0, 40)]
    add('runs-on', `${Math.round(dx)}, ${Math.round(dy)} px beside`, range, {
      mendAt: (mend, frame) => onFrame(mend, frame, (area) => moved(area, dx, dy)),
    })
  }
  if (paths) {
    // What the line ends on is not held out: the mend runs on over it.
    const px = between(15, 40)
    add('holdout-missing', `${px.toFixed(0)} px over its end`, window(3, 8), {
      mendAt: (mend, frame) => onFrame(mend, frame, (area) => runOn(area, px)),
    })
  }
  {
    // The grain of the first frame stands still while the picture goes on.
    const taps = gaussianTaps(1)
    let first: Float32Array | null = null
    add('grain-frozen', 'all of it', window(4, 8), {
      pixelsAt(finished, mended) {
        const raster = rasterFromSamples(finished)
        const smooth = convolveSeparable(raster, taps, taps).data
        first ??= raster.data.map((value, i) => value - smooth[i]!)
        const grain = first
        const frozen = { ...raster, data: raster.data.map((value, i) => (mended[Math.floor(i / raster.channels)] === 1 ? smooth[i]! + grain[i]! : value)) } // prettier-ignore
        return samplesFromRaster(frozen, finished.data.BYTES_PER_ELEMENT === 1 ? 8 : 16)
      },
    })
  }
  return all
}

/** A path that goes on straight beyond its last point, by so many px. */
function runOn(area: Area, px: number): Area {
  if (area.shape !== 'path') return area
  const keys = area.keys.map((key) => {
    const [before, last] = [key.points.at(-2), key.points.at(-1)]
    if (!before || !last) return key
    const [dx, dy] = [last.x - before.x, last.y - before.y]
    const length = Math.sqrt(dx * dx + dy * dy)
    const beyond = { ...last, x: last.x + (px * dx) / length, y: last.y + (px * dy) / length }
    return { ...key, points: [...key.points.slice(0, -1), beyond] }
  })
  return { ...area, keys }
}
