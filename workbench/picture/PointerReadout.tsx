/** Where the pointer is, in picture px, and the code values that are seen there. The picture's own corner counts from 0. */
import { useEffect, useState } from 'react'
import { differenceInWords, valueInWords, type ValueUnit } from '../../core/view/values'
import type { Place } from '../../core/geometry/transform'
import { fetchRects } from '../preview/plateAccess'
import type { ShownPatch } from '../preview/mendedPieces'
import { isOfTwo } from '../../core/view/compare'
import { useOtherFrame } from '../compare/useOtherSide'
import { useShownFrame } from '../preview/useFrameState'
import { useBench, useBenchParts } from '../BenchContext'
import { useLookChoice } from '../viewing/lookChoice'

export function PointerReadout({ pointer }: { pointer: Place | null }) {
  const plate = useBench((bench) => bench.plate)
  const unit = useLookChoice((look) => look.unit)
  const maximum = plate.bitDepth === 8 ? 255 : 65535
  // A place that was worked out may miss a whole number by its last bit.
  const at = pointer && { x: thousandths(pointer.x), y: thousandths(pointer.y) }
  const isInside = at && at.x >= 0 && at.y >= 0 && at.x < plate.width && at.y < plate.height
  const { title } = useBenchParts().other
  const codes = useCodes(isInside ? Math.floor(at.x) : null, isInside ? Math.floor(at.y) : null)
  const words = isInside
    ? `${tenths(at.x)}, ${tenths(at.y)} px${codesInWords(codes, title, maximum, unit)}`
    : `${plate.width} × ${plate.height} px`
  return (
    <span
      className="absolute right-3 bottom-2 rounded-sm bg-panel/80 px-2 py-0.5 font-mono text-xs text-soft"
      data-testid="read-out"
      aria-hidden
    >
      {words}
    </span>
  )
}

const thousandths = (px: number): number => Math.round(px * 1000) / 1000

/** Cut, not rounded: the whole px before the point are those of the pixel that is read. */
const tenths = (px: number): string => (Math.floor(px * 10) / 10).toFixed(1)

interface Codes {
  /** Of the plate, or of what else is compared with. */
  readonly other: readonly number[] | null
  /** Null where nothing is mended, or only the plate is shown. */
  readonly result: readonly number[] | null
}

/** What is shown; while two are compared, both, and how far they lie apart. */
function codesInWords({ other, result }: Codes, title: string, maximum: number, unit: ValueUnit): string {
  const said = (codes: readonly number[]) => codes.map((code) => valueInWords(code, maximum, unit)).join(' ')
  if (!result) return other ? ` · ${said(other)}` : ''
  if (!other) return ` · ${said(result)}`
  const apart = result.map((code, c) => differenceInWords(other[c]!, code, maximum, unit))
  return ` · ${title.toLowerCase()} ${said(other)} · result ${said(result)} · ${apart.join(' ')}`
}

/** The code values of a pixel at the plate's depth, and of what it is compared with; the plate's where neither mends it. */
function useCodes(col: number | null, row: number | null): Codes {
  const { plateReference } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const isPlateShown = useBench((bench) => bench.isPlateShown)
  const compares = useBench(({ compare }) => isOfTwo(compare.mode))
  const other = useOtherFrame()
  const { mended } = useShownFrame()
  const [read, setRead] = useState<{ readonly key: string; readonly codes: readonly number[] } | null>(null)
  const patchOf = (patches: readonly ShownPatch[] = []) =>
    col === null || row === null || isPlateShown ? undefined : patches.findLast((one) => isIn(one, col, row))
  const [patch, otherPatch] = [patchOf(mended?.patches), compares ? patchOf(other?.patches) : undefined]
  const key = `${frame} ${col} ${row}`
  const isAsked = col !== null && row !== null && (!patch || (compares && !otherPatch))
  useEffect(() => {
    if (!isAsked) return
    let isCurrent = true
    fetchRects(plateReference, [{ frame, rect: { col, row, width: 1, height: 1 } }]).then(
      ([pixel]) => isCurrent && setRead({ key, codes: [...pixel!.data.slice(0, 3)] }),
      () => isCurrent && setRead(null), // the picture itself says that it could not be fetched
    )
    return () => void (isCurrent = false)
  }, [col, frame, isAsked, key, plateReference, row])
  const plate = isAsked && read?.key === key ? read.codes : null
  if (col === null || row === null) return { other: null, result: null }
  if (!patch && !otherPatch) return { other: plate, result: null }
  return {
    other: otherPatch ? codesOf(otherPatch, col, row) : plate,
    result: patch ? codesOf(patch, col, row) : plate,
  }
}

const isIn = ({ col, row, samples }: ShownPatch, x: number, y: number): boolean =>
  x >= col && y >= row && x < col + samples.width && y < row + samples.height

function codesOf({ col, row, samples }: ShownPatch, x: number, y: number): number[] {
  const at = ((y - row) * samples.width + x - col) * samples.channels
  return [...samples.data.slice(at, at + 3)]
}
