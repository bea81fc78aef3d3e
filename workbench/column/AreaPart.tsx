/** The Area part: which areas there are, the numbers of the selected one, what can be done with it. */
import { DropdownMenu } from 'radix-ui'
import { toast } from 'sonner'
import { insertPoint, removeArea, setGeometry, setRole } from '../../core/document/areaCommands'
import { SIZE_PX, WIDTH_PX, type Area, type Geometry, type KeyedArea } from '../../core/document/areas'
import { geometryAt } from '../../core/document/keyedGeometry'
import { areaToSvg } from '../../core/document/svg'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { saveText } from '../saveText'
import { NumberField } from '../fields/NumberField'
import { nameOf } from '../picture/handles/placedHandle'
import { selectedArea } from '../store/benchState'
import { drawTool, type DrawnShape } from '../tools/tool'
import { CellInput } from './CellInput'
import { MatteImport } from './MatteImport'
import { areaWords } from './summaries'
import { pasteInto } from './clipboard'
import { SMALL_BUTTON, MENU, MENU_ITEM } from './buttonStyles'

const SHAPES: Readonly<Record<Exclude<DrawnShape, 'point' | 'pair'>, string>> = {
  path: 'Path',
  ellipse: 'Ellipse',
  box: 'Box',
  outline: 'Outline',
}

export function AreaPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const area = useBench(selectedArea) ?? mend.areas[0]!
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const { selectArea } = store.getState()
  return (
    <>
      {mend.areas.length > 1 && (
        <ul
          className="mb-1 max-h-32 overflow-y-auto rounded-sm border border-line"
          aria-label="Areas of the mend"
        >
          {mend.areas.map((one, index) => (
            <li key={one.id}>
              <button
                type="button"
                aria-pressed={one.id === area.id}
                className={`w-full truncate px-2 py-0.5 text-left ${one.id === area.id ? 'bg-lifted text-ink' : 'text-soft hover:text-ink'}`}
                onClick={() => selectArea(one.id)}
              >
                {index + 1} · {areaWords(one, tracks, frame)}
                {one.role === 'holdout' ? ' · held out' : ''}
              </button>
            </li>
          ))}
        </ul>
      )}
      {area.shape === 'matte' ? (
        <p className="truncate py-1 text-soft">{area.pattern}</p>
      ) : (
        <ShapeFields key={area.id} mend={mend} area={area} />
      )}
      <AreaActions mend={mend} area={area} />
    </>
  )
}

function AreaActions({ mend, area }: { mend: MendRecord; area: Area }) {
  const { store } = useBenchParts()
  const clipboard = useBench((bench) => bench.clipboard)
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const { commit, setTool, copyArea } = store.getState()
  const canAddPoint = area.shape === 'path' || area.shape === 'outline'
  const isHoldout = area.role === 'holdout'
  const exportSvg = () => {
    const text = areaToSvg(mend, store.getState().tracks, frame, plate)
    saveText(text, `${mend.name}.${frame}.svg`)
  }
  return (
    <div className="mt-1.5 flex flex-wrap gap-1.5">
      {canAddPoint && (
        <button
          type="button"
          className={SMALL_BUTTON}
          title="Or double-click the line"
          onClick={() => commit(insertPoint(mend, area.id, longestSide(area), 0.5))}
        >
          Add a point
        </button>
      )}
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={SMALL_BUTTON}>Add an area…</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={MENU}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            {(['cover', 'holdout'] as const).map((role) => (
              <DropdownMenu.Group key={role}>
                <DropdownMenu.Label className="px-2 py-1 text-soft">
                  {role === 'cover' ? 'Covered too' : 'Held out: passes in front'}
                </DropdownMenu.Label>
                {(Object.keys(SHAPES) as (keyof typeof SHAPES)[]).map((shape) => (
                  <DropdownMenu.Item
                    key={shape}
                    className={MENU_ITEM}
                    onSelect={() => setTool(drawTool(shape, { for: 'area', mendId: mend.id, role }))}
                  >
                    {SHAPES[shape]}
                  </DropdownMenu.Item>
                ))}
              </DropdownMenu.Group>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={SMALL_BUTTON}>This area…</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            className={MENU}
            onCloseAutoFocus={(event) => event.preventDefault()}
          >
            <DropdownMenu.Item
              className={MENU_ITEM}
              onSelect={() => commit(setRole(mend, area.id, isHoldout ? 'cover' : 'holdout'))}
            >
              {isHoldout ? 'Cover it' : 'Hold it out'}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={() => copyArea(area)}>
              Copy the area
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              disabled={area.shape === 'matte'}
              onSelect={() =>
                area.shape !== 'matte' &&
                copyArea(
                  area,
                  area.keys.map((key) => key.frame),
                )
              }
            >
              Copy its keys
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              disabled={!clipboard}
              onSelect={() => pasteInto(store, mend, area.id)}
            >
              {clipboard?.frames ? 'Paste keys here' : 'Paste an area'}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={MENU_ITEM} onSelect={exportSvg}>
              Export as SVG
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={MENU_ITEM}
              onSelect={() => {
                const edit = removeArea(mend, area.id)
                if (edit) commit(edit)
                else toast.info('This is the only area. Delete the mend instead.')
              }}
            >
              Remove it
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <MatteImport mend={mend} />
    </div>
  )
}

/** Index of the point before the longest stretch, where a new one helps most. */
function longestSide(area: Area): number {
  if (area.shape !== 'path' && area.shape !== 'outline') return 0
  const { points } = area.keys[0]!
  const lengths = points
    .slice(1)
    .map((point, i) => (point.x - points[i]!.x) ** 2 + (point.y - points[i]!.y) ** 2)
  return lengths.indexOf(Math.max(...lengths))
}

function ShapeFields({ mend, area }: { mend: MendRecord; area: KeyedArea }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const { preview, endGesture } = store.getState()
  const geometry = geometryAt(area, tracks, frame)
  const change = (act: (geometry: Geometry) => Geometry, what?: string) => {
    const state = store.getState()
    const record = state.records.get(mend.id)!
    const now = record.areas.find((one) => one.id === area.id) as KeyedArea
    preview(
      setGeometry(record, area.id, state.tracks, frame, act(geometryAt(now, state.tracks, frame)), what),
    )
  }
  const keep = (act: (geometry: Geometry) => Geometry) => {
    change(act)
    endGesture()
  }
  if (geometry.shape === 'path') {
    return (
      <>
        <NumberField
          title="Width"
          unit="px"
          help="Full width of the area, at all points of this frame. Single points are set below."
          value={Math.max(...geometry.points.map((point) => point.widthPx))}
          min={WIDTH_PX.min}
          max={80}
          step={0.1}
          onChange={(widthPx) =>
            change(
              (now) =>
                now.shape === 'path'
                  ? { ...now, points: now.points.map((point) => ({ ...point, widthPx })) }
                  : now,
              'Width of',
            )
          }
          onEnd={endGesture}
        />
        <PointTable
          columns={[
            ['x', 'x, px'],
            ['y', 'y, px'],
            ['widthPx', 'Width, px'],
          ]}
          rows={geometry.points.map((point, index) => ({
            name: nameOf(index, geometry.points.length),
            values: point,
          }))}
          onKeep={(index, part, value) =>
            keep((now) =>
              now.shape === 'path'
                ? { ...now, points: now.points.with(index, { ...now.points[index]!, [part]: value }) }
                : now,
            )
          }
        />
      </>
    )
  }
  if (geometry.shape === 'outline') {
    return (
      <PointTable
        columns={[
          ['x', 'x, px'],
          ['y', 'y, px'],
        ]}
        rows={geometry.points.map((point, index) => ({ name: `Point ${index + 1}`, values: point }))}
        onKeep={(index, part, value) =>
          keep((now) =>
            now.shape === 'outline'
              ? { ...now, points: now.points.with(index, { ...now.points[index]!, [part]: value }) }
              : now,
          )
        }
      />
    )
  }
  const fields =
    geometry.shape === 'ellipse'
      ? ([
          ['x', 'x', 'px', -10_000, 10_000],
          ['y', 'y', 'px', -10_000, 10_000],
          ['radiusXPx', 'Radius', 'px', SIZE_PX.min, 400],
          ['radiusYPx', 'Other radius', 'px', SIZE_PX.min, 400],
          ['turnDeg', 'Turn', '°', -180, 180],
        ] as const)
      : ([
          ['x', 'x', 'px', -10_000, 10_000],
          ['y', 'y', 'px', -10_000, 10_000],
          ['widthPx', 'Width', 'px', SIZE_PX.min, 1000],
          ['heightPx', 'Height', 'px', SIZE_PX.min, 1000],
          ['turnDeg', 'Turn', '°', -180, 180],
          ['cornerPx', 'Corners', 'px', 0, 200],
        ] as const)
  const values = geometry as unknown as Readonly<Record<string, number>>
  return fields.map(([part, title, unit, min, max]) => (
    <NumberField
      key={part}
      title={title}
      unit={unit}
      value={values[part]!}
      min={min}
      max={max}
      step={0.1}
      hasSlider={part !== 'x' && part !== 'y'}
      onChange={(value) => change((now) => ({ ...now, [part]: value }))}
      onEnd={endGesture}
    />
  ))
}

interface TableProps {
  readonly columns: readonly (readonly [part: string, title: string])[]
  readonly rows: readonly { readonly name: string; readonly values: object }[]
  onKeep(index: number, part: string, value: number): void
}

function PointTable({ columns, rows, onKeep }: TableProps) {
  return (
    <div className="mt-1 max-h-40 overflow-y-auto">
      <table className="w-full border-separate border-spacing-x-1 font-mono">
        <thead>
          <tr className="text-left font-sans text-soft">
            <th className="font-normal">Point</th>
            {columns.map(([part, title]) => (
              <th key={part} className="font-normal">
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map(({ name, values }, index) => (
            <tr key={name}>
              <th scope="row" className="pr-1 text-left font-sans font-normal whitespace-nowrap text-soft">
                {name}
              </th>
              {columns.map(([part]) => (
                <td key={part}>
                  <CellInput
                    label={`${part === 'widthPx' ? 'Width' : part} of ${name}`}
                    value={(values as Readonly<Record<string, number>>)[part]!}
                    min={part === 'widthPx' ? WIDTH_PX.min : -100_000}
                    max={part === 'widthPx' ? WIDTH_PX.max : 100_000}
                    onKeep={(value) => onKeep(index, part, value)}
                  />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  )
}
