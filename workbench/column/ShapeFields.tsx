/** The numbers of an area on the frame that is looked at: sizes, and every point. */
import { setGeometry } from '../../core/document/areaCommands'
import { SIZE_PX, WIDTH_PX, type Geometry, type KeyedArea } from '../../core/document/areas'
import { geometryAt } from '../../core/document/keyedGeometry'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { NumberField } from '../fields/NumberField'
import { nameOf } from '../picture/handles/placedHandle'
import { useTracking } from '../tracking/useTracking'
import { CellInput } from './CellInput'

export function ShapeFields({ mend, area }: { mend: MendRecord; area: KeyedArea }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const { preview, endGesture } = store.getState()
  const { setLineRight } = useTracking()
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
          onKeep={(index, part, value) => {
            keep((now) =>
              now.shape === 'path'
                ? { ...now, points: now.points.with(index, { ...now.points[index]!, [part]: value }) }
                : now,
            )
            if (part !== 'widthPx') setLineRight(mend.id, area.id)
          }}
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
