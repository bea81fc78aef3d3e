import { useBench } from '../BenchContext'
import { CellInput } from '../column/CellInput'
import { SMALL_BUTTON } from '../column/buttonStyles'

const CORNERS = ['Upper left', 'Upper right', 'Lower right', 'Lower left'] as const

/** Corners of a picture of the plate's size, x and y of each, round from the upper left. */
export const plateCorners = ({
  width,
  height,
}: {
  readonly width: number
  readonly height: number
}): number[] => [0, 0, width, 0, width, height, 0, height]

export interface CornersFieldProps {
  readonly title: string
  readonly help?: string
  /** Empty as long as they are the plate's own. */
  readonly corners: readonly number[]
  readonly min: number
  readonly max: number
  onChange(corners: number[]): void
  onEnd(): void
}

export function CornersField({ title, help, corners, min, max, onChange, onEnd }: CornersFieldProps) {
  const plate = useBench((bench) => bench.plate)
  const keep = (next: number[]) => {
    onChange(next)
    onEnd()
  }
  const shown = corners.length === 8 ? corners : plateCorners(plate)
  return (
    <fieldset className="py-1" title={help}>
      <legend className="flex w-full items-center justify-between pb-1 text-soft">
        {title}, px
        <button
          type="button"
          className={SMALL_BUTTON}
          disabled={corners.length === 0}
          onClick={() => keep([])}
        >
          Whole plate
        </button>
      </legend>
      {CORNERS.map((name, corner) => (
        <div
          key={name}
          className="grid grid-cols-[1fr_72px_72px] items-center gap-1 pb-0.5 font-mono text-xs"
        >
          <span className="font-sans text-soft">{name}</span>
          {[0, 1].map((axis) => (
            <CellInput
              key={axis}
              label={`${name}, ${axis === 0 ? 'x' : 'y'}`}
              value={shown[2 * corner + axis]!}
              min={min}
              max={max}
              onKeep={(value) => keep(shown.map((old, i) => (i === 2 * corner + axis ? value : old)))}
            />
          ))}
        </div>
      ))}
    </fieldset>
  )
}
