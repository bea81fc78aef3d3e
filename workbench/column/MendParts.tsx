/** The five parts of a mend, in the order of the work, each with a summary in words. */
import { Accordion } from 'radix-ui'
import { ChevronRight } from 'lucide-react'
import type { ReactNode } from 'react'
import type { MendRecord } from '../../core/document/mend'
import { selectedArea } from '../store/benchState'
import { AreaPart } from './AreaPart'
import { MotionPart } from './MotionPart'
import { FillPart } from './FillPart'
import { FinishPart } from './FinishPart'
import { seenWords, useGathered } from './Gathered'
import { SpanPart } from './SpanPart'
import { areaSummary, fillSummary, finishSummary, motionSummary, spanSummary } from './summaries'
import { useBench } from '../BenchContext'

export function MendParts({ mend }: { mend: MendRecord }) {
  const plate = useBench((bench) => bench.plate)
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const area = useBench(selectedArea)
  const gathered = useGathered(mend.id)
  return (
    <Accordion.Root type="multiple" defaultValue={['motion', 'fill']} className="pr-3 pb-2 pl-9">
      <Part name="area" title="Area" summary={areaSummary(mend, tracks, frame)}>
        <AreaPart mend={mend} />
      </Part>
      <Part name="motion" title="Motion" summary={area ? motionSummary(area, tracks) : ''}>
        <MotionPart mend={mend} />
      </Part>
      <Part
        name="fill"
        title="Fill"
        summary={
          gathered && mend.kind !== 'brush'
            ? `${fillSummary(mend).split(' — ')[0]} · ${seenWords(gathered)}`
            : fillSummary(mend)
        }
      >
        <FillPart mend={mend} />
      </Part>
      <Part name="finish" title="Finish" summary={finishSummary(mend)}>
        <FinishPart mend={mend} />
      </Part>
      <Part name="span" title="Span" summary={spanSummary(mend, plate)}>
        <SpanPart mend={mend} />
      </Part>
    </Accordion.Root>
  )
}

function Part({
  name,
  title,
  summary,
  children,
}: {
  name: string
  title: string
  summary: string
  children: ReactNode
}) {
  return (
    <Accordion.Item value={name} className="border-t border-line">
      <Accordion.Header asChild>
        <h2>
          <Accordion.Trigger className="group flex w-full items-baseline gap-2 py-1.5 text-left">
            <span className="w-14 font-semibold">{title}</span>
            <span className="min-w-0 grow truncate text-soft">{summary}</span>
            <ChevronRight
              aria-hidden
              className="size-3.5 self-center text-soft transition-transform group-data-[state=open]:rotate-90"
            />
          </Accordion.Trigger>
        </h2>
      </Accordion.Header>
      <Accordion.Content className="pb-2">{children}</Accordion.Content>
    </Accordion.Item>
  )
}
