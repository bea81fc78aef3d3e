/** The strip's frame: transport, ruler with cached frames, the playhead; a stage fills it with rows, which scroll inside its height. */
import { ChevronLeft, ChevronRight, Pause, Play } from 'lucide-react'
import { useRef, type ReactNode } from 'react'
import { formatFrameRate, frameIndexOf, timecodeOf } from '../../core/time'
import { useBench, useBenchParts } from '../BenchContext'
import { useReadyRuns } from '../preview/useFrameState'
import { SPEEDS } from '../../core/view/playback'
import { FrameEntry } from './FrameEntry'
import { PlaybackMenu } from './PlaybackMenu'
import { rulerLabels } from './ruler'

/** Room for the names of rows, left of the frames. */
export const GUTTER_PX = 104

interface StripFrameProps {
  /** Said in the transport row, right of the middle. */
  readonly words: ReactNode
  /** Rows; `share` is where a frame's middle lies across the strip. */
  readonly rows: (share: (frame: number) => string) => ReactNode
}

export function StripFrame({ words, rows }: StripFrameProps) {
  const { store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const { firstFrame, lastFrame } = plate
  const count = lastFrame - firstFrame + 1
  const ruler = useRef<HTMLDivElement>(null)
  const share = (at: number) => `${((at - firstFrame + 0.5) / count) * 100}%`

  const scrub = (clientX: number) => {
    const box = ruler.current!.getBoundingClientRect()
    store.getState().goTo(firstFrame + Math.floor(((clientX - box.left) / box.width) * count))
  }
  const runs = useReadyRuns(plate)
  return (
    <section aria-label="Strip" className="shrink-0 border-t border-line bg-panel">
      <Transport
        words={words}
        readyCount={runs.reduce((sum, run) => sum + run.end - run.begin, 0)}
        count={count}
      />
      <div className="h-44 overflow-y-auto border-t border-line pr-4 pb-2" style={{ paddingLeft: GUTTER_PX }}>
        <div ref={ruler} className="relative">
          <div
            role="slider"
            aria-label="Frame"
            aria-valuemin={firstFrame}
            aria-valuemax={lastFrame}
            aria-valuenow={frame}
            tabIndex={0}
            className="relative h-8 cursor-ew-resize touch-none"
            onPointerDown={(event) => {
              event.currentTarget.setPointerCapture(event.pointerId)
              scrub(event.clientX)
            }}
            onPointerMove={(event) => event.buttons === 1 && scrub(event.clientX)}
          >
            {rulerLabels(firstFrame, lastFrame).map((at) => (
              <span
                key={at}
                className="absolute top-0 -translate-x-1/2 font-mono text-xs text-soft"
                style={{ left: share(at) }}
              >
                {at}
              </span>
            ))}
            <svg
              className="absolute bottom-0 h-1.5 w-full"
              preserveAspectRatio="none"
              viewBox={`0 0 ${count} 1`}
              aria-hidden
            >
              <rect y={0.72} width={count} height={0.28} fill="var(--color-lifted)" />
              {runs.map(({ begin, end }) => (
                <rect
                  key={begin}
                  data-testid="cached-run"
                  x={begin - firstFrame}
                  y={0.72}
                  width={end - begin}
                  height={0.28}
                  fill="var(--color-soft)"
                />
              ))}
            </svg>
          </div>
          <PlayedRange share={share} />
          {rows(share)}
          <div
            className="pointer-events-none absolute top-5 bottom-0 w-px bg-ink"
            style={{ left: share(frame) }}
            aria-hidden
          >
            <svg className="absolute -top-px -left-[6.5px] h-2 w-3.5" viewBox="0 0 14 8" aria-hidden>
              <path d="M0 0h14L7 8z" fill="var(--color-ink)" />
            </svg>
          </div>
        </div>
      </div>
    </section>
  )
}

/** What is not played is dimmed. */
function PlayedRange({ share }: { share: (frame: number) => string }) {
  const range = useBench((bench) => bench.playRange)
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  if (!range) return null
  const parts = [
    { from: firstFrame, to: range.firstFrame },
    { from: range.lastFrame + 1, to: lastFrame + 1 },
  ].filter(({ from, to }) => to > from)
  return parts.map(({ from, to }) => (
    <div
      key={from}
      data-testid="not-played"
      className="pointer-events-none absolute top-0 bottom-0 z-10 bg-well/60"
      style={{ left: share(from - 0.5), width: `calc(${share(to - 0.5)} - ${share(from - 0.5)})` }}
      aria-hidden
    />
  ))
}

function Transport({ words, readyCount, count }: { words: ReactNode; readyCount: number; count: number }) {
  const { store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const isPlaying = useBench((bench) => bench.isPlaying)
  const shownRate = useBench((bench) => bench.shownRate)
  const dropped = useBench((bench) => bench.droppedFrames)
  const speed = useBench((bench) => SPEEDS[bench.playback.speed])
  const { goTo, setPlaying } = store.getState()
  const button = 'rounded-sm bg-well p-1.5 hover:bg-lifted'
  return (
    <div className="flex h-11 items-center gap-2 px-3">
      <button
        type="button"
        className={button}
        aria-label={isPlaying ? 'Pause' : 'Play'}
        title="Space"
        onClick={() => setPlaying(!isPlaying)}
      >
        {isPlaying ? <Pause aria-hidden className="size-4" /> : <Play aria-hidden className="size-4" />}
      </button>
      <button
        type="button"
        className={button}
        aria-label="Back one frame"
        title="←"
        onClick={() => goTo(frame - 1)}
      >
        <ChevronLeft aria-hidden className="size-4" />
      </button>
      <button
        type="button"
        className={button}
        aria-label="On one frame"
        title="→"
        onClick={() => goTo(frame + 1)}
      >
        <ChevronRight aria-hidden className="size-4" />
      </button>
      <PlaybackMenu />
      <FrameEntry />
      <span className="font-mono text-soft">
        {timecodeOf(frameIndexOf(frame, plate.firstFrame), plate.frameRate)} ·{' '}
        {formatFrameRate(plate.frameRate)} fps
      </span>
      <span className="grow" />
      <span className="text-soft">{words}</span>
      <span className="w-44 text-right font-mono text-soft" data-testid="ready">
        {shownRate !== null && (
          <span
            className={
              shownRate < speed * (plate.frameRate.num / plate.frameRate.den) * 0.95 ? 'text-caution' : ''
            }
          >
            {shownRate.toFixed(1)} fps{dropped > 0 ? ` · ${dropped} left out` : ''} ·{' '}
          </span>
        )}
        {readyCount}/{count} ready
      </span>
    </div>
  )
}
