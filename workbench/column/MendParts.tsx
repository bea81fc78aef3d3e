/** The five parts of a mend, in the order of the work, each with a summary in words. */
import { Accordion } from 'radix-ui'
import { ChevronRight } from 'lucide-react'
import type { ReactNode } from 'react'
import { findFill } from '../../core/fill/registry'
import { setFill, setFillParam, setFinish, setSpan } from '../../core/mend/commands'
import { defaultsOf, fillMethods } from '../../core/fill/registry'
import { finishSchema, type MendRecord } from '../../core/mend/schema'
import { selectedArea } from '../store/bench'
import { AreaPart } from './AreaPart'
import { MotionPart } from './MotionPart'
import { areaSummary, motionSummary } from './summaries'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'

export function MendParts({ mend }: { mend: MendRecord }) {
  const plate = useBench((bench) => bench.plate)
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const area = useBench(selectedArea)
  const fill = findFill(mend.fill.methodId)
  const isWhole = mend.span.firstFrame === plate.firstFrame && mend.span.lastFrame === plate.lastFrame
  const { finish } = mend
  return (
    <Accordion.Root type="multiple" defaultValue={['motion', 'fill']} className="pr-3 pb-2 pl-9">
      <Part name="area" title="Area" summary={areaSummary(mend, tracks, frame)}>
        <AreaPart mend={mend} />
      </Part>
      <Part name="motion" title="Motion" summary={area ? motionSummary(area, tracks) : ''}>
        <MotionPart mend={mend} />
      </Part>
      <Part name="fill" title="Fill" summary={fill ? `${fill.title} — ${fill.needsPath ? 'from both sides' : 'from the rim'}` : mend.fill.methodId}>
        <FillPart mend={mend} />
      </Part>
      <Part
        name="finish"
        title="Finish"
        summary={`Feather ${(finish.featherInPx + finish.featherOutPx).toFixed(1)} px · ${finish.grain === 1 ? 'grain matched' : `grain ${finish.grain.toFixed(2)}×`}`}
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

function FillPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const method = findFill(mend.fill.methodId)
  if (!method) return <p className="text-snag">There is no fill “{mend.fill.methodId}”.</p>
  const hasOnlyPaths = mend.areas.every((area) => area.role === 'holdout' || area.shape === 'path')
  const usable = fillMethods.filter((one) => !one.needsPath || hasOnlyPaths || one.id === method.id)
  return (
    <>
      <ChoiceField
        title="Method"
        help={method.summary}
        value={method.id}
        choices={Object.fromEntries(usable.map((one) => [one.id, one.title]))}
        onChange={(id) => {
          const next = fillMethods.find((one) => one.id === id)!
          store.getState().commit(setFill(mend, { methodId: next.id, methodVersion: next.version, params: defaultsOf(next) }, next.title))
        }}
      />
      <SchemaForm
        schema={method.params}
        values={mend.fill.params}
        onChange={(name, value, title) => preview(setFillParam(store.getState().records.get(mend.id)!, name, value, title))}
        onEnd={endGesture}
      />
    </>
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
