import { useBench } from '../BenchContext'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { NumberField } from './NumberField'

export interface FrameFieldProps {
  readonly title: string
  readonly help?: string
  readonly value: number
  onChange(value: number): void
  onEnd(): void
}

/** The number of a frame of the plate: typed, or the one that is looked at. */
export function FrameField({ title, help, value, onChange, onEnd }: FrameFieldProps) {
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  return (
    <div className="relative">
      <NumberField
        title={title}
        help={help}
        unit=""
        value={value}
        min={firstFrame}
        max={lastFrame}
        step={1}
        hasSlider={false}
        onChange={(next) => onChange(Math.round(next))}
        onEnd={onEnd}
      />
      <button
        type="button"
        className={`${SMALL_BUTTON} absolute top-1 left-[82px]`}
        disabled={value === frame}
        onClick={() => {
          onChange(frame)
          onEnd()
        }}
      >
        This frame
      </button>
    </div>
  )
}
