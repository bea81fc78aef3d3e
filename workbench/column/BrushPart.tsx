/** The brush of a mend: what the next stroke is like, and the strokes that were painted. */
import { ArrowDown, ArrowUp, Eye, EyeOff, Trash2 } from 'lucide-react'
import type { ReactNode } from 'react'
import {
  brushSchema,
  LAYS,
  laysOf,
  HAND_SETTINGS,
  LIFE_SETTINGS,
  moveStroke,
  removeStrokes,
  setStrokes,
  strokesOf,
  TIP_SETTINGS,
} from '../../core/document/brush'
import { isPaintedAt, type StrokeArea } from '../../core/document/areas'
import type { MendRecord } from '../../core/document/mend'
import { tipSchema, type Stroke } from '../../core/document/stroke'
import { findFill } from '../../core/fill/registry'
import { useBench, useBenchParts } from '../BenchContext'
import { SchemaForm } from '../fields/SchemaForm'
import { brushTool } from '../tools/tool'
import { selectedArea } from '../store/benchState'
import { SMALL_BUTTON } from './buttonStyles'
import { SpanFields } from './SpanPart'

export function BrushPart({ mend }: { mend: MendRecord }) {
  return (
    <>
      <NextStroke />
      <Strokes mend={mend} />
    </>
  )
}

/** What the next stroke is like. */
export function NextStroke() {
  const { store } = useBenchParts()
  const brush = useBench((bench) => bench.brush)
  const tool = useBench((bench) => bench.tool)
  const { names } = LAYS[brush.lays]
  const isPainting = tool.kind === 'brush'
  const setTool = (isPicking: boolean) =>
    store.getState().setTool({ ...(isPainting ? tool : brushTool), isPicking })
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
}

function Strokes({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const chosen = useBench(selectedArea)
  const frame = useBench((bench) => bench.frame)
  const strokes = strokesOf(mend)
  const area = strokes.find(({ id }) => id === chosen?.id)
  return (
    <section aria-label="Strokes" className="pt-2">
      <h3 className="pb-1 text-soft">
        {strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`}, the last one on top
      </h3>
      <ol className="max-h-56 overflow-y-auto" data-testid="strokes">
        {strokes.toReversed().map((stroke) => (
          <li key={stroke.id}>
            <button
              type="button"
              aria-pressed={stroke.id === chosen?.id}
              className="flex w-full items-baseline gap-2 rounded-xs px-1.5 py-1 text-left hover:bg-lifted aria-pressed:bg-lifted"
              onClick={() => store.getState().selectArea(stroke.id)}
            >
              <span className={isPaintedAt(stroke, frame) ? 'text-ink' : 'text-soft'}>
                {LAYS[laysOf(stroke.stroke)].title}
              </span>
              <span className="grow font-mono text-xs text-soft">{framesOf(stroke)}</span>
              {stroke.stroke.isHidden && (
                <EyeOff aria-label="Hidden" className="size-3.5 self-center text-soft" />
              )}
            </button>
          </li>
        ))}
      </ol>
      {area && <ChosenStroke mend={mend} area={area} />}
    </section>
  )
}

const framesOf = ({ stroke: { span } }: StrokeArea): string =>
  span.firstFrame === span.lastFrame ? `${span.firstFrame}` : `${span.firstFrame}–${span.lastFrame}`

/** Softness, strength, what its fill can be told, and its frames; hidden, ordered, taken away. */
function ChosenStroke({ mend, area }: { mend: MendRecord; area: StrokeArea }) {
  const { store } = useBenchParts()
  const { preview, endGesture, commit } = store.getState()
  const { stroke } = area
  const method = findFill(stroke.fill.methodId)
  const ids = new Set([area.id])
  const now = () => store.getState().records.get(mend.id) ?? mend
  const change = (of: (one: Stroke) => Partial<Stroke>, title: string) =>
    setStrokes(now(), ids, (one) => ({ ...one, ...of(one) }), title)
  const [later, earlier, removed] = [moveStroke(mend, area.id, 1), moveStroke(mend, area.id, -1), removeStrokes(mend, ids)] // prettier-ignore
  return (
    <section
      aria-label="This stroke"
      className="mt-1 rounded-sm border border-line p-2"
      data-testid="chosen-stroke"
    >
      <h3 className="pb-1 text-soft">This stroke</h3>
      <p className="flex gap-1 pb-1">
        <IconButton
          label={stroke.isHidden ? 'Show the stroke' : 'Hide the stroke'}
          onClick={() => commit(change(({ isHidden }) => ({ isHidden: !isHidden }), 'Hiding'))}
        >
          {stroke.isHidden ? <EyeOff /> : <Eye />}
        </IconButton>
        <IconButton label="Lay it later" onClick={later && (() => commit(later))}>
          <ArrowUp />
        </IconButton>
        <IconButton label="Lay it earlier" onClick={earlier && (() => commit(earlier))}>
          <ArrowDown />
        </IconButton>
        <IconButton label="Delete the stroke" onClick={removed && (() => commit(removed))}>
          <Trash2 />
        </IconButton>
      </p>
      <SchemaForm
        schema={tipSchema}
        values={stroke}
        onChange={(name, value, title) => preview(change(() => ({ [name]: value }), title))}
        onEnd={endGesture}
      />
      {method && (
        <SchemaForm
          schema={method.params}
          values={stroke.fill.params}
          onChange={(name, value, title) =>
            preview(
              change(({ fill }) => ({ fill: { ...fill, params: { ...fill.params, [name]: value } } }), title),
            )
          }
          onEnd={endGesture}
        />
      )}
      <SpanFields
        span={stroke.span}
        onChange={(span) => preview(change(() => ({ span }), 'Frames'))}
        onEnd={endGesture}
      />
    </section>
  )
}

/** @param onClick  Null where there is nothing to do. */
function IconButton({
  label,
  onClick,
  children,
}: {
  label: string
  onClick: (() => void) | null
  children: ReactNode
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      disabled={onClick === null}
      className={`${SMALL_BUTTON} [&_svg]:size-3.5`}
      onClick={onClick ?? undefined}
    >
      {children}
    </button>
  )
}
