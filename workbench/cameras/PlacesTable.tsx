/** The places of a sensor map, to be set right in numbers. */
import {
  createPaginatedRowModel,
  createSortedRowModel,
  rowPaginationFeature,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_basic,
  tableFeatures,
  useTable,
  type ColumnDef,
} from '@tanstack/react-table'
import { X } from 'lucide-react'
import { PIXEL_CLASSES } from '../../core/survey/finds'
import type { SensorMap } from '../../core/survey/sensorMap'
import { CellInput } from '../column/CellInput'
import { SMALL_BUTTON } from '../column/buttonStyles'
import { SortHeader } from '../fields/SortHeader'
import { PIXEL_NAMES } from '../survey/findWords'
import { isSamePlace, type PlaceId } from './SensorPlan'

const features = tableFeatures({
  rowSortingFeature,
  rowPaginationFeature,
  sortedRowModel: createSortedRowModel(),
  paginatedRowModel: createPaginatedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, basic: sortFn_basic },
})

type Pixel = SensorMap['pixels'][number]
type Mote = SensorMap['motes'][number]
type Row = { readonly id: PlaceId; readonly words: string } & (
  { readonly pixel: Pixel; readonly mote?: undefined } | { readonly mote: Mote; readonly pixel?: undefined }
)

const at = (row: Row): Pixel | Mote => row.pixel ?? row.mote

const columns: ColumnDef<typeof features, Row>[] = [
  { id: 'what', header: 'What', accessorFn: ({ words }) => words, sortFn: 'alphanumeric' },
  { id: 'x', header: 'x, px', accessorFn: (row) => at(row).x, sortFn: 'basic' },
  { id: 'y', header: 'y, px', accessorFn: (row) => at(row).y, sortFn: 'basic' },
  {
    id: 'width',
    header: 'Wide, px',
    accessorFn: (row) => row.pixel?.widthPx ?? 2 * row.mote!.radiusXPx,
    sortFn: 'basic',
  },
  {
    id: 'height',
    header: 'High, px',
    accessorFn: (row) => row.pixel?.heightPx ?? 2 * row.mote!.radiusYPx,
    sortFn: 'basic',
  },
]

const ROWS = 50

interface PlacesTableProps {
  readonly pixels: readonly Pixel[]
  readonly motes: readonly Mote[]
  readonly sensor: SensorMap['sensor']
  readonly selected: PlaceId | null
  onSelect(place: PlaceId): void
  onPixel(index: number, pixel: Pixel | null): void
  onMote(index: number, mote: Mote | null): void
}

export function PlacesTable({ pixels, motes, ...rest }: PlacesTableProps) {
  const rows: Row[] = [
    ...pixels.map((pixel, index) => ({
      id: { kind: 'pixel' as const, index },
      words: PIXEL_NAMES[pixel.class],
      pixel,
    })),
    ...motes.map((mote, index) => ({ id: { kind: 'mote' as const, index }, words: 'Mote', mote })),
  ]
  const table = useTable({
    features,
    columns,
    data: rows,
    initialState: { pagination: { pageSize: ROWS, pageIndex: 0 } },
    autoResetPageIndex: false,
  })
  const pages = table.getPageCount()
  const { pageIndex } = table.state.pagination
  return (
    <>
      <table className="w-full max-w-3xl border-collapse" aria-label="Places of the map">
        <thead>
          <tr className="border-b border-line">
            {table.getHeaderGroups()[0]!.headers.map((header) => (
              <SortHeader
                key={header.id}
                title={String(header.column.columnDef.header)}
                sorted={header.column.getIsSorted()}
                className={header.id === 'what' ? 'text-left' : 'text-right'}
                onToggle={header.column.getToggleSortingHandler()}
              />
            ))}
            <th className="py-1 text-right text-xs font-normal text-soft">Depth</th>
            <td className="w-8" />
          </tr>
        </thead>
        <tbody>
          {table.getRowModel().rows.map((row) => (
            <PlaceRow key={`${row.original.id.kind}-${row.original.id.index}`} row={row.original} {...rest} />
          ))}
        </tbody>
      </table>
      {pages > 1 && (
        <p className="flex items-center gap-2 py-2 text-soft">
          <button
            type="button"
            className={SMALL_BUTTON}
            disabled={pageIndex === 0}
            onClick={() => table.previousPage()}
          >
            Before
          </button>
          <span className="font-mono">
            {pageIndex + 1} of {pages}
          </span>
          <button
            type="button"
            className={SMALL_BUTTON}
            disabled={pageIndex + 1 >= pages}
            onClick={() => table.nextPage()}
          >
            Next
          </button>
        </p>
      )}
    </>
  )
}

/** No place is smaller, and no mote takes more light. */
const MIN_PX = 1
const DEEPEST_STOPS = -10

function PlaceRow({
  row,
  sensor,
  selected,
  onSelect,
  onPixel,
  onMote,
}: { row: Row } & Omit<PlacesTableProps, 'pixels' | 'motes'>) {
  const { id, words } = row
  const name = `${words} at ${Math.floor(at(row).x)}, ${Math.floor(at(row).y)}`
  const change = (pixel: Partial<Pixel>, mote: Partial<Mote>) =>
    row.pixel ? onPixel(id.index, { ...row.pixel, ...pixel }) : onMote(id.index, { ...row.mote, ...mote })
  const cell = (label: string, value: number, least: number, most: number, keep: (value: number) => void) => (
    <td className="w-20 py-1 pl-2 font-mono">
      <CellInput label={`${label} of ${name}`} value={value} min={least} max={most} onKeep={keep} />
    </td>
  )
  const isSelected = isSamePlace(selected, id)
  return (
    <tr
      aria-selected={isSelected}
      data-testid="place"
      className={`border-b border-line ${isSelected ? 'bg-raised shadow-[inset_3px_0_0_var(--color-thread)]' : ''}`}
      onFocus={() => onSelect(id)}
      onClick={() => onSelect(id)}
    >
      <td className="py-1 pl-2">
        {row.pixel ? (
          <select
            aria-label={`Class of ${name}`}
            className="w-full rounded-xs bg-well px-1 py-px"
            value={row.pixel.class}
            onChange={(event) => change({ class: event.target.value as Pixel['class'] }, {})}
          >
            {PIXEL_CLASSES.map((one) => (
              <option key={one} value={one}>
                {PIXEL_NAMES[one]}
              </option>
            ))}
          </select>
        ) : (
          words
        )}
      </td>
      {cell('x', at(row).x, 0, sensor.width, (x) => change({ x }, { x }))}
      {cell('y', at(row).y, 0, sensor.height, (y) => change({ y }, { y }))}
      {cell('Width', row.pixel?.widthPx ?? 2 * row.mote!.radiusXPx, MIN_PX, sensor.width, (px) =>
        change({ widthPx: px }, { radiusXPx: px / 2 }),
      )}
      {cell('Height', row.pixel?.heightPx ?? 2 * row.mote!.radiusYPx, MIN_PX, sensor.height, (px) =>
        change({ heightPx: px }, { radiusYPx: px / 2 }),
      )}
      {row.mote ? (
        cell('Depth in stops', row.mote.depthStops, DEEPEST_STOPS, 0, (depthStops) =>
          change({}, { depthStops }),
        )
      ) : (
        <td className="py-1 text-right text-soft">–</td>
      )}
      <td className="py-1 text-right">
        <button
          type="button"
          aria-label={`Take ${name} off the map`}
          title="Take off the map"
          className="rounded-xs p-0.5 text-soft hover:text-ink"
          onClick={() => (row.pixel ? onPixel(id.index, null) : onMote(id.index, null))}
        >
          <X aria-hidden className="size-3.5" />
        </button>
      </td>
    </tr>
  )
}
