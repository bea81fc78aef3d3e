/** The five parts of a mend, in the order of the work, each with a summary in words. */
import { Accordion } from 'radix-ui'
import { ChevronRight } from 'lucide-react'
import type { ReactNode } from 'react'
import { findFill } from '../../core/fill/registry'
import { removeKey, setFillParam, setFinish, setPoints, setSpan, setTravel, insertPoint } from '../../core/mend/commands'
import { hasKeyAt, pathPointsAt } from '../../core/mend/keys'
import { finishSchema, WIDTH_PX, type MendRecord } from '../../core/mend/schema'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import { nameOf } from '../picture/Overlay'

export function MendParts({ mend }: { mend: MendRecord }) {
  const frame = useBench((bench) => bench.frame)
  const plate = useBench((bench) => bench.plate)
  const points = pathPointsAt(mend.area, frame)
  const fill = findFill(mend.fill.methodId)
  const isWhole = mend.span.firstFrame === plate.firstFrame && mend.span.lastFrame === plate.lastFrame
  const widest = Math.max(...points.map((point) => point.widthPx))
  return (
    <Accordion.Root type="multiple" defaultValue={['fill']} className="pr-3 pb-2 pl-9">
      <Part name="area" title="Area" summary={`Path · ${points.length} points · ${widest.toFixed(1)} px wide`}>
        <AreaPart mend={mend} />
      </Part>
      <Part
        name="motion"
        title="Motion"
        summary={mend.area.keys.length === 1 ? 'Still' : `Keyed · ${mend.area.keys.length} keys, ${mend.area.travel}`}
      >
        <MotionPart mend={mend} />
      </Part>
      <Part name="fill" title="Fill" summary={`${fill?.title ?? mend.fill.methodId} — from both sides`}>
        <FillPart mend={mend} />
      </Part>
      <Part
        name="finish"
        title="Finish"
        summary={`Feather ${mend.finish.featherPx.toFixed(1)} px · ${mend.finish.grain === 1 ? 'grain matched' : `grain ${mend.finish.grain.toFixed(2)}×`}`}
      >
        <FinishPart mend={mend} />
      </Part>
      <Part
        name="span"
        title="Span"
        summary={isWhole ? `${plate.firstFrame}–${plate.lastFrame} · whole shot` : `${mend.span.firstFrame}–${mend.span.lastFrame}`}
      >
        <SpanPart mend={mend} />
      </Part>
    </Accordion.Root>
  )
}

function Part({ name, title, summary, children }: { name: string; title: string; summary: string; children: ReactNode }) {
  return (
    <Accordion.Item value={name} className="border-t border-line">
      <Accordion.Header asChild>
        <h2>
          <Accordion.Trigger className="group flex w-full items-baseline gap-2 py-1.5 text-left">
            <span className="w-14 font-semibold">{title}</span>
            <span className="min-w-0 grow truncate text-soft">{summary}</span>
            <ChevronRight aria-hidden className="size-3.5 self-center text-soft transition-transform group-data-[state=open]:rotate-90" />
          </Accordion.Trigger>
        </h2>
      </Accordion.Header>
      <Accordion.Content className="pb-2">{children}</Accordion.Content>
    </Accordion.Item>
  )
}

function AreaPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const points = pathPointsAt(mend.area, frame)
  const { preview, endGesture, commit } = store.getState()
  const current = () => store.getState().records.get(mend.id)!
  const change = (index: number, part: Partial<(typeof points)[number]>) =>
    preview(
      setPoints(
        current(),
        frame,
        pathPointsAt(current().area, frame).map((point, i) => (i === index ? { ...point, ...part } : point)),
      ),
    )
  const setAllWidths = (widthPx: number) =>
    preview(
      setPoints(
        current(),
        frame,
        pathPointsAt(current().area, frame).map((point) => ({ ...point, widthPx })),
        'Width of',
      ),
    )
  return (
    <>
      <NumberField
        title="Width"
        unit="px"
        help="Full width of the area, at all points of this frame. Single points are set below."
        value={Math.max(...points.map((point) => point.widthPx))}
        min={WIDTH_PX.min}
        max={80}
        step={0.1}
        onChange={setAllWidths}
        onEnd={endGesture}
      />
      <table className="mt-1 w-full border-separate border-spacing-x-1 font-mono">
        <thead>
          <tr className="text-left font-sans text-soft">
            <th className="font-normal">Point</th>
            <th className="font-normal">x, px</th>
            <th className="font-normal">y, px</th>
            <th className="font-normal">Width, px</th>
          </tr>
        </thead>
        <tbody>
          {points.map((point, index) => (
            <tr key={index}>
              <th scope="row" className="pr-1 text-left whitespace-nowrap font-sans font-normal text-soft">
                {nameOf(index, points.length)}
              </th>
              {(['x', 'y', 'widthPx'] as const).map((part) => (
                <td key={part}>
                  <CellInput
                    label={`${part === 'widthPx' ? 'Width' : part} of ${nameOf(index, points.length)}`}
                    value={point[part]}
                    min={part === 'widthPx' ? WIDTH_PX.min : -100_000}
                    max={part === 'widthPx' ? WIDTH_PX.max : 100_000}
                    onKeep={(value) => {
                      change(index, { [part]: value })
                      endGesture()
                    }}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1.5 flex items-center gap-2 text-soft">
        <button
          type="button"
          className="shrink-0 rounded-sm border border-line px-2 py-0.5 text-ink hover:bg-lifted"
          onClick={() => commit(insertPoint(mend, longestSpan(points), 0.5))}
        >
          Add a point
        </button>
        or double-click the line
      </p>
    </>
  )
}

/** Index of the point before the longest stretch, where a new one helps most. */
function longestSpan(points: readonly { x: number; y: number }[]): number {
  const lengths = points.slice(1).map((point, i) => (point.x - points[i]!.x) ** 2 + (point.y - points[i]!.y) ** 2)
  return lengths.indexOf(Math.max(...lengths))
}

function CellInput({ label, value, min, max, onKeep }: { label: string; value: number; min: number; max: number; onKeep: (value: number) => void }) {
  const keep = (input: HTMLInputElement) => {
    const next = Number(input.value)
    const isGood = input.value.trim() !== '' && Number.isFinite(next) && next >= min && next <= max
    if (isGood && next.toFixed(1) !== value.toFixed(1)) onKeep(next)
    else input.value = value.toFixed(1)
  }
  return (
    <input
      key={value}
      aria-label={label}
      inputMode="decimal"
      autoComplete="off"
      defaultValue={value.toFixed(1)}
      className="w-full min-w-0 rounded-xs bg-well px-1 text-right"
      onBlur={(event) => keep(event.target)}
      onKeyDown={(event) => event.key === 'Enter' && keep(event.currentTarget)}
    />
  )
}

function MotionPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const { commit, goTo } = store.getState()
  const isKeyed = hasKeyAt(mend.area, frame)
  return (
    <>
      <ChoiceField
        title="Travel"
        help="Between keys: smooth as a swing or a throw, or straight from key to key."
        value={mend.area.travel}
        choices={{ smooth: 'Smooth', linear: 'Linear' }}
        onChange={(travel) => commit(setTravel(mend, travel as 'smooth' | 'linear'))}
      />
      <p className="flex flex-wrap items-center gap-1 py-1">
        <span className="mr-2 text-soft">Keys</span>
        {mend.area.keys.map((key) => (
          <button
            key={key.frame}
            type="button"
            className={`rounded-xs px-1 font-mono ${key.frame === frame ? 'bg-lifted text-ink' : 'text-soft hover:text-ink'}`}
            onClick={() => goTo(key.frame)}
          >
            {key.frame}
          </button>
        ))}
      </p>
      <button
        type="button"
        disabled={!isKeyed || mend.area.keys.length === 1}
        className="rounded-sm border border-line px-2 py-0.5 hover:bg-lifted disabled:text-soft"
        onClick={() => commit(removeKey(mend, frame))}
      >
        Remove the key at {frame}
      </button>
    </>
  )
}

function FillPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const method = findFill(mend.fill.methodId)
  if (!method) return <p className="text-snag">There is no fill “{mend.fill.methodId}”.</p>
  return (
    <SchemaForm
      schema={method.params}
      values={mend.fill.params}
      onChange={(name, value, title) => preview(setFillParam(store.getState().records.get(mend.id)!, name, value, title))}
      onEnd={endGesture}
    />
  )
}

function FinishPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  return (
    <SchemaForm
      schema={finishSchema}
      values={mend.finish}
      onChange={(name, value, title) => preview(setFinish(store.getState().records.get(mend.id)!, { [name]: value }, title))}
      onEnd={endGesture}
    />
  )
}

function SpanPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const plate = useBench((bench) => bench.plate)
  const { preview, endGesture, commit } = store.getState()
  const { firstFrame, lastFrame } = mend.span
  const field = (title: string, part: 'firstFrame' | 'lastFrame', min: number, max: number) => (
    <NumberField
      title={title}
      unit=""
      value={mend.span[part]}
      min={min}
      max={max}
      step={1}
      hasSlider={false}
      onChange={(value) => preview(setSpan(store.getState().records.get(mend.id)!, { ...mend.span, [part]: Math.round(value) }))}
      onEnd={endGesture}
    />
  )
  return (
    <>
      {field('First frame', 'firstFrame', plate.firstFrame, lastFrame)}
      {field('Last frame', 'lastFrame', firstFrame, plate.lastFrame)}
      <p className="flex gap-2 pt-1">
        <button
          type="button"
          className="rounded-sm border border-line px-2 py-0.5 hover:bg-lifted"
          disabled={frame > lastFrame}
          onClick={() => commit(setSpan(mend, { ...mend.span, firstFrame: frame }))}
        >
          Begin at {frame}
        </button>
        <button
          type="button"
          className="rounded-sm border border-line px-2 py-0.5 hover:bg-lifted"
          disabled={frame < firstFrame}
          onClick={() => commit(setSpan(mend, { ...mend.span, lastFrame: frame }))}
        >
          End at {frame}
        </button>
      </p>
    </>
  )
}
