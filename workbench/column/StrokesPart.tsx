/** The strokes of a brush: listed, the last one on top; one or many chosen and changed alike, one undo each. */
import { useVirtualizer } from '@tanstack/react-virtual'
import { ArrowDown, ArrowUp, Eye, EyeOff, Trash2 } from 'lucide-react'
import { useDeferredValue, useRef, type MouseEvent, type ReactNode } from 'react'
import { isPaintedAt, type StrokeArea, WIDTH_PX } from '../../core/document/areas'
import { LAYS, laysOf } from '../../core/document/brush'
import type { MendEdit } from '../../core/document/edits'
import { geometryAt } from '../../core/document/keyedGeometry'
import type { MendRecord } from '../../core/document/mend'
import { tipSchema, type Stroke } from '../../core/document/stroke'
import { moveStroke, removeStrokes, retimeStrokes, setStrokes, shiftStrokes, strokesOf, widenStrokes } from '../../core/document/strokeCommands' // prettier-ignore
import type { PathPoint } from '../../core/geometry/pathCurve'
import { findFill } from '../../core/fill/registry'
import { useBench, useBenchParts } from '../BenchContext'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import { selectedArea } from '../store/benchState'
import { SMALL_BUTTON } from './buttonStyles'
import { SpanFields } from './SpanPart'

export function StrokesPart({ mend: latest }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  // The list of a thousand strokes comes a moment after the picture.
  const mend = useDeferredValue(latest)
  const chosenId = useBench((bench) => selectedArea(bench)?.id)
  const also = useBench((bench) => bench.alsoStrokes)
  const frame = useBench((bench) => bench.frame)
  const strokes = strokesOf(mend)
  const isChosen = ({ id }: StrokeArea) => id === chosenId || also.has(id)
  const chosen = strokes.filter(isChosen)
  const choose = (some: readonly StrokeArea[]) =>
    store.getState().chooseStrokes(some.map(({ id }) => id).toReversed())
  const onClick = ({ ctrlKey, metaKey, shiftKey }: MouseEvent, stroke: StrokeArea) => {
    if (ctrlKey || metaKey) {
      const rest = chosen.filter((one) => one !== stroke)
      if (rest.length === 0 || rest.length < chosen.length) return choose(rest.length > 0 ? rest : [stroke])
      return choose([...rest, stroke])
    }
    const from = shiftKey ? strokes.findIndex(({ id }) => id === chosenId) : -1
    if (from < 0) return choose([stroke])
    const to = strokes.indexOf(stroke)
    const between = strokes.slice(Math.min(from, to), Math.max(from, to) + 1)
    choose([...between.filter(({ id }) => id !== chosenId), strokes[from]!])
  }
  const here = strokes.filter((stroke) => isPaintedAt(stroke, frame))
  return (
    <section aria-label="Strokes" className="pt-2">
      <h3 className="pb-1 text-soft">
        {strokes.length === 1 ? '1 stroke' : `${strokes.length} strokes`}, the last one on top
      </h3>
      <StrokeList strokes={strokes} isChosen={isChosen} onClick={onClick} />
      {strokes.length > 1 && (
        <p className="flex gap-1.5 pt-1">
          <button type="button" className={SMALL_BUTTON} onClick={() => choose(strokes)}>
            Choose all
          </button>
          <button
            type="button"
            className={SMALL_BUTTON}
            disabled={here.length === 0}
            onClick={() => choose(here)}
          >
            Those on {frame}
          </button>
        </p>
      )}
      {chosen.length > 0 && <ChosenStrokes mend={mend} chosen={chosen} />}
    </section>
  )
}

const ROW_PX = 28

/** Only the rows that are seen are there: a shot may have a thousand strokes. */
function StrokeList({
  strokes,
  isChosen,
  onClick,
}: {
  strokes: readonly StrokeArea[]
  isChosen: (stroke: StrokeArea) => boolean
  onClick: (event: MouseEvent, stroke: StrokeArea) => void
}) {
  const frame = useBench((bench) => bench.frame)
  const scrolled = useRef<HTMLDivElement>(null)
  const rows = useVirtualizer({
    count: strokes.length,
    getScrollElement: () => scrolled.current,
    estimateSize: () => ROW_PX,
    overscan: 4,
    getItemKey: (index) => strokes[strokes.length - 1 - index]!.id,
  })
  return (
    <div ref={scrolled} className="max-h-56 overflow-y-auto">
      <ol className="relative" style={{ height: rows.getTotalSize() }} data-testid="strokes">
        {rows.getVirtualItems().map(({ key, index, start }) => {
          const stroke = strokes[strokes.length - 1 - index]!
          return (
            <li
              key={key}
              className="absolute inset-x-0"
              style={{ top: start, height: ROW_PX }}
              aria-setsize={strokes.length}
              aria-posinset={index + 1}
            >
              <button
                type="button"
                aria-pressed={isChosen(stroke)}
                title="Ctrl adds it to what is chosen, Shift all up to it"
                className="flex h-full w-full items-center gap-2 rounded-xs px-1.5 text-left hover:bg-lifted aria-pressed:bg-lifted"
                onClick={(event) => onClick(event, stroke)}
              >
                <span className={isPaintedAt(stroke, frame) ? 'text-ink' : 'text-soft'}>
                  {LAYS[laysOf(stroke.stroke)].title}
                </span>
                <span className="grow font-mono text-xs text-soft">{framesOf(stroke)}</span>
                {stroke.stroke.isHidden && <EyeOff aria-label="Hidden" className="size-3.5 text-soft" />}
              </button>
            </li>
          )
        })}
      </ol>
    </div>
  )
}

const framesOf = ({ stroke: { span } }: StrokeArea): string =>
  span.firstFrame === span.lastFrame ? `${span.firstFrame}` : `${span.firstFrame}–${span.lastFrame}`

/** Place, size, softness, strength, frames, what their fill can be told; hidden, ordered, taken away. @param chosen  One or more. */
function ChosenStrokes({ mend, chosen }: { mend: MendRecord; chosen: readonly StrokeArea[] }) {
  const { store } = useBenchParts()
  const { preview, endGesture, commit } = store.getState()
  const [area] = chosen
  const { stroke } = area!
  const isOne = chosen.length === 1
  const areAlike = chosen.every((one) => one.stroke.fill.methodId === stroke.fill.methodId)
  const method = areAlike ? findFill(stroke.fill.methodId) : undefined
  const ids = new Set(chosen.map(({ id }) => id))
  const now = () => store.getState().records.get(mend.id) ?? mend
  const change = (of: (one: Stroke) => Partial<Stroke>, title: string) =>
    setStrokes(now(), ids, (one) => ({ ...one, ...of(one) }), title)
  /** Does it to the mend as it is by then; null where there is nothing to do. */
  const doing = (edit: (record: MendRecord) => MendEdit | null) =>
    edit(mend) && (() => commitSome(edit(now())))
  const commitSome = (edit: MendEdit | null) => edit && commit(edit)
  const moving = (by: -1 | 1) => (isOne ? doing((record) => moveStroke(record, area!.id, by)) : null)
  return (
    <section
      aria-label={isOne ? 'This stroke' : 'These strokes'}
      className="mt-1 rounded-sm border border-line p-2"
      data-testid="chosen-stroke"
    >
      <h3 className="pb-1 text-soft">{isOne ? 'This stroke' : `These ${chosen.length} strokes`}</h3>
      <p className="flex gap-1 pb-1">
        <IconButton
          label={`${stroke.isHidden ? 'Show' : 'Hide'} the ${isOne ? 'stroke' : 'strokes'}`}
          onClick={() => commit(change(() => ({ isHidden: !stroke.isHidden }), 'Hiding'))}
        >
          {stroke.isHidden ? <EyeOff /> : <Eye />}
        </IconButton>
        <IconButton label="Lay it later" onClick={moving(1)}>
          <ArrowUp />
        </IconButton>
        <IconButton label="Lay it earlier" onClick={moving(-1)}>
          <ArrowDown />
        </IconButton>
        <IconButton
          label={`Delete the ${isOne ? 'stroke' : 'strokes'}`}
          onClick={doing((record) => removeStrokes(record, ids))}
        >
          <Trash2 />
        </IconButton>
      </p>
      <PlaceFields mend={mend} chosen={chosen} ids={ids} />
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
      {isOne ? (
        <SpanFields
          span={stroke.span}
          onChange={(span) => preview(change(() => ({ span }), 'Frames'))}
          onEnd={endGesture}
        />
      ) : (
        <p className="flex items-center gap-1.5 pt-1">
          {[-1, 1].map((by) => (
            <button
              key={by}
              type="button"
              className={SMALL_BUTTON}
              title="All of them, each as long as it was"
              onClick={() => commit(retimeStrokes(now(), ids, by))}
            >
              {by < 0 ? 'A frame earlier' : 'A frame later'}
            </button>
          ))}
        </p>
      )}
    </section>
  )
}

/** Where the first of them begins and how wide it is; what is changed here changes all alike. */
function PlaceFields({
  mend,
  chosen,
  ids,
}: {
  mend: MendRecord
  chosen: readonly StrokeArea[]
  ids: ReadonlySet<string>
}) {
  const { store } = useBenchParts()
  const { preview, endGesture } = store.getState()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const plate = useBench((bench) => bench.plate)
  const pointsNow = () => {
    const state = store.getState()
    const area = strokesOf(state.records.get(mend.id) ?? mend).find(({ id }) => id === chosen[0]!.id)
    const geometry = geometryAt(area ?? chosen[0]!, state.tracks, frame)
    return geometry.shape === 'path' ? geometry.points : []
  }
  const geometry = geometryAt(chosen[0]!, tracks, frame)
  if (geometry.shape !== 'path') return null
  const [first] = geometry.points
  const place = { tracks, frame }
  const field = (
    title: string,
    help: string,
    value: number,
    [min, max]: readonly [number, number],
    change: (to: number, now: readonly PathPoint[]) => (record: MendRecord) => MendEdit,
  ) =>
    // prettier-ignore
    <NumberField
      title={title}
      help={help}
      unit="px"
      value={value}
      min={min}
      max={max}
      step={0.5}
      hasSlider={false}
      onChange={(to) => preview(change(to, pointsNow())(store.getState().records.get(mend.id) ?? mend))}
      onEnd={endGesture}
    />
  const shift = (dx: number, dy: number) => (record: MendRecord) =>
    shiftStrokes(record, ids, { dx, dy }, place)
  const { width, height } = plate
  return (
    <>
      {field(
        'Width',
        'Where the stroke is widest; the others change in step.',
        widestPx(geometry.points),
        [WIDTH_PX.min, WIDTH_PX.max],
        (px, now) => (record) => widenStrokes(record, ids, px / widestPx(now), place),
      )}
      {field('From left', 'Where the stroke begins.', first!.x, [-width, 2 * width], (x, now) =>
        shift(x - now[0]!.x, 0),
      )}
      {field('From top', 'Where the stroke begins.', first!.y, [-height, 2 * height], (y, now) =>
        shift(0, y - now[0]!.y),
      )}
    </>
  )
}

const widestPx = (points: readonly { readonly widthPx: number }[]): number =>
  points.reduce((max, { widthPx }) => Math.max(max, widthPx), 0)

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
