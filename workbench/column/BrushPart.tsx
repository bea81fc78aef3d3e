/** The brush of a mend: what the next stroke is like, and the strokes that were painted. */
import { memo } from 'react'
import { brushSchema, HAND_SETTINGS, LAYS, LIFE_SETTINGS, TIP_SETTINGS } from '../../core/document/brush'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { SchemaForm } from '../fields/SchemaForm'
import { brushTool } from '../tools/tool'
import { SMALL_BUTTON } from './buttonStyles'
import { StrokesPart } from './StrokesPart'

export function BrushPart({ mend }: { mend: MendRecord }) {
  return (
    <>
      <NextStroke />
      <StrokesPart mend={mend} />
    </>
  )
}

/** What the next stroke is like. It has many fields, and nothing of it changes while one paints. */
export const NextStroke = memo(function NextStroke() {
  const { store } = useBenchParts()
  const brush = useBench((bench) => bench.brush)
  const { names } = LAYS[brush.lays]
  const isPainting = useBench((bench) => bench.tool.kind === 'brush')
  const setTool = (isPicking: boolean) => {
    const { tool, setTool: set } = store.getState()
    set({ ...(tool.kind === 'brush' ? tool : brushTool), isPicking })
  }
  return (
    <section aria-label="Next stroke" className="border-b border-line pb-2">
      <SchemaForm
        schema={brushSchema}
        values={brush}
        names={['lays', ...TIP_SETTINGS, ...HAND_SETTINGS, ...names, ...LIFE_SETTINGS]}
        onChange={(name, value) => store.getState().setBrush({ [name]: value })}
        onEnd={() => undefined}
      />
      <p className="flex gap-1.5 pt-1">
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-pressed={isPainting}
          onClick={() => setTool(false)}
        >
          {isPainting ? 'Painting' : 'Paint'}
        </button>
        {names.some((name) => name === 'offsetX') && (
          <button
            type="button"
            className={SMALL_BUTTON}
            title="The next click in the picture says where the stroke after it begins to take from"
            onClick={() => setTool(true)}
          >
            Pick source
          </button>
        )}
      </p>
    </section>
  )
})
