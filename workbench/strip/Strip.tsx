/** The strip under the picture: transport, ruler, cached frames, stitches and pins of every mend. */
import { ChevronLeft, ChevronRight, Pause, Play } from 'lucide-react'
import { useRef } from 'react'
import { formatFrameRate, frameIndexOf, timecodeOf } from '../../core/time'
import { useBench, useBenchParts } from '../BenchContext'
import { Key } from '../shell/Key'
import { stackOf } from '../preview/mendKey'
import { selectedArea, selectedMend } from '../store/bench'
import { cachedRuns } from './cachedRuns'
import { rulerLabels } from './ruler'
import { GatherRow } from './GatherRow'
import { Pins } from './Pins'
import { SceneRow } from './SceneRow'
import { SnagLine } from './SnagLine'
import { SourcePins } from './SourcePins'
import { StitchRow } from './StitchRow'
import { SureChart } from './SureChart'

const GUTTER_PX = 104

export function Strip() {
  const { store, cache, cacheVersion, snags } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const records = useBench((bench) => bench.records)
  const selected = useBench(selectedMend)
  const stack = stackOf(records.values())
  const { firstFrame, lastFrame } = plate
  const count = lastFrame - firstFrame + 1
  const ruler = useRef<HTMLDivElement>(null)
  const area = useBench(selectedArea)
  const track = useBench((bench) => (bench.trackId === null ? undefined : bench.tracks.get(bench.trackId)))
  const share = (at: number) => `${((at - firstFrame + 0.5) / count) * 100}%`

  const scrub = (clientX: number) => {
    const box = ruler.current!.getBoundingClientRect()
    store.getState().goTo(firstFrame + Math.floor(((clientX - box.left) / box.width) * count))
  }
  const runs = cache ? cachedRuns(firstFrame, lastFrame, (at) => cache.isReady(at)) : []
  void cacheVersion // frames become ready without anything else changing here
  return (
    <section aria-label="Strip" className="shrink-0 border-t border-line bg-panel">
      <Transport readyCount={runs.reduce((sum, run) => sum + run.end - run.begin, 0)} count={count} />
      <div className="max-h-44 overflow-y-auto border-t border-line pr-4 pb-2" style={{ paddingLeft: GUTTER_PX }}>
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
              <span key={at} className="absolute top-0 -translate-x-1/2 font-mono text-xs text-soft" style={{ left: share(at) }}>
                {at}
              </span>
            ))}
            <svg className="absolute bottom-0 h-1.5 w-full" preserveAspectRatio="none" viewBox={`0 0 ${count} 1`} aria-hidden>
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
          {snags.length > 0 && (
            <div className="relative">
              <span className="absolute text-xs text-snag" style={{ left: -GUTTER_PX + 10 }}>
                {snags.length} {snags.length === 1 ? 'snag' : 'snags'}
              </span>
              <SnagLine snags={snags} share={share} />
            </div>
          )}
          <SceneRow firstFrame={firstFrame} lastFrame={lastFrame} gutterPx={GUTTER_PX} />
          {stack.map((mend) => (
            <div key={mend.id} className={`relative ${mend.id === selected?.id ? 'bg-raised' : ''}`}>
              <button
                type="button"
                className={`absolute truncate text-left text-xs ${mend.id === selected?.id ? 'text-ink' : 'text-soft'}`}
                style={{ left: -GUTTER_PX + 10, width: GUTTER_PX - 16 }}
                onClick={() => store.getState().select(mend.id)}
              >
                {mend.name}
              </button>
              <div className="py-1">
                <StitchRow mend={mend} snags={snags} firstFrame={firstFrame} lastFrame={lastFrame} height={9} />
              </div>
              {mend.id === selected?.id && area && area.shape !== 'matte' && <Pins mend={mend} area={area} firstFrame={firstFrame} count={count} />}
              {mend.id === selected?.id && <SourcePins mend={mend} share={share} />}
              {mend.id === selected?.id && <GatherRow mend={mend} share={share} />}
              {mend.id === selected?.id && track && <SureChart track={track} firstFrame={firstFrame} lastFrame={lastFrame} />}
            </div>
          ))}
          <div className="pointer-events-none absolute top-5 bottom-0 w-px bg-ink" style={{ left: share(frame) }} aria-hidden>
            <svg className="absolute -top-px -left-[6.5px] h-2 w-3.5" viewBox="0 0 14 8" aria-hidden>
              <path d="M0 0h14L7 8z" fill="var(--color-ink)" />
            </svg>
          </div>
        </div>
      </div>
    </section>
  )
}

function Transport({ readyCount, count }: { readyCount: number; count: number }) {
  const { store } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const isPlaying = useBench((bench) => bench.isPlaying)
  const shownRate = useBench((bench) => bench.shownRate)
  const { goTo, setPlaying } = store.getState()
  const button = 'rounded-sm bg-well p-1.5 hover:bg-lifted'
  return (
    <div className="flex h-11 items-center gap-2 px-3">
      <button type="button" className={button} aria-label={isPlaying ? 'Pause' : 'Play'} title="Space" onClick={() => setPlaying(!isPlaying)}>
        {isPlaying ? <Pause aria-hidden className="size-4" /> : <Play aria-hidden className="size-4" />}
      </button>
      <button type="button" className={button} aria-label="Back one frame" title="←" onClick={() => goTo(frame - 1)}>
        <ChevronLeft aria-hidden className="size-4" />
      </button>
      <button type="button" className={button} aria-label="On one frame" title="→" onClick={() => goTo(frame + 1)}>
        <ChevronRight aria-hidden className="size-4" />
      </button>
      <span className="ml-1 font-mono text-xl font-bold" data-testid="frame">
        {frame}
      </span>
      <span className="font-mono text-soft">
        {timecodeOf(frameIndexOf(frame, plate.firstFrame), plate.frameRate)} · {formatFrameRate(plate.frameRate)} fps
      </span>
      <span className="grow" />
      <span className="text-soft">
        <Key>,</Key> <Key>.</Key> pins · <Key>;</Key> <Key>'</Key> snags
      </span>
      <span className="w-44 text-right font-mono text-soft" data-testid="ready">
        {shownRate !== null && (
          <span className={shownRate < (plate.frameRate.num / plate.frameRate.den) * 0.95 ? 'text-caution' : ''}>{shownRate.toFixed(1)} fps · </span>
        )}
        {readyCount}/{count} ready
      </span>
    </div>
  )
}
