/** The table of finds: sorted, filtered, walked through by keys. */
import {
  columnFilteringFeature,
  createFilteredRowModel,
  createSortedRowModel,
  rowSortingFeature,
  sortFn_alphanumeric,
  sortFn_basic,
  tableFeatures,
  useTable,
  type ColumnDef,
} from '@tanstack/react-table'
import { useEffect, useMemo, useRef } from 'react'
import type { FindKind } from '../../core/survey/finds'
import { SortHeader } from '../fields/SortHeader'
import { FindCrop } from './FindCrop'
import { nameOf, placeWords, sureWords, SURE_FROM } from './findWords'
import { useSurveyParts, type SurveyedFind } from './SurveyContext'

const features = tableFeatures({
  columnFilteringFeature,
  rowSortingFeature,
  filteredRowModel: createFilteredRowModel(),
  sortedRowModel: createSortedRowModel(),
  sortFns: { alphanumeric: sortFn_alphanumeric, basic: sortFn_basic },
})

const columns: ColumnDef<typeof features, SurveyedFind>[] = [
  {
    id: 'kind',
    header: 'Kind',
    accessorFn: ({ find }) => nameOf(find),
    sortFn: 'alphanumeric',
    filterFn: (row, _, kind) => row.original.find.kind === kind,
  },
  { id: 'place', header: 'Place', accessorFn: ({ find }) => find.y * 100_000 + find.x, sortFn: 'basic' },
  { id: 'state', header: 'State', accessorFn: ({ state }) => state, sortFn: 'alphanumeric' },
  { id: 'sure', header: 'Sure', accessorFn: ({ find }) => find.sure, sortFn: 'basic' },
]

export function FindsTable({ kind }: { kind: FindKind | null }) {
  const { finds, setShownIds } = useSurveyParts()
  const columnFilters = useMemo(() => (kind ? [{ id: 'kind', value: kind }] : []), [kind])
  const table = useTable({
    features,
    columns,
    data: finds,
    state: { columnFilters },
    initialState: { sorting: [{ id: 'sure', desc: true }] },
  })
  const rows = table.getRowModel().rows.map((row) => row.original)
  const ids = rows.map(({ find }) => find.id).join(' ')
  useEffect(() => setShownIds(ids === '' ? [] : ids.split(' ')), [ids, setShownIds])
  return (
    <table className="w-full border-collapse">
      <thead className="sticky top-0 z-1 bg-panel">
        <tr className="border-b border-line">
          <td className="w-[68px]" />
          {table.getHeaderGroups()[0]!.headers.map((header) => (
            <SortHeader
              key={header.id}
              title={String(header.column.columnDef.header)}
              sorted={header.column.getIsSorted()}
              className={header.id === 'sure' ? 'pr-3 text-right' : 'text-left'}
              onToggle={header.column.getToggleSortingHandler()}
            />
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map((one) => (
          <FindRow key={one.find.id} {...one} />
        ))}
      </tbody>
    </table>
  )
}

const STATE_WORDS = { open: '', accepted: 'accepted', dismissed: 'dismissed' } as const

function FindRow({ find, state, number }: SurveyedFind) {
  const { selectedId, select } = useSurveyParts()
  const isSelected = selectedId === find.id
  const row = useRef<HTMLTableRowElement>(null)
  useEffect(() => {
    if (!isSelected) return
    // Keys belong to the row now, not to the button that was pressed last.
    row.current?.focus({ preventScroll: true })
    row.current?.scrollIntoView({ block: 'nearest' })
  }, [isSelected])
  return (
    <tr
      ref={row}
      tabIndex={isSelected ? 0 : -1}
      aria-selected={isSelected}
      data-testid="find"
      data-state={state}
      className={`cursor-pointer border-b border-line outline-offset-[-2px] ${isSelected ? 'bg-raised shadow-[inset_3px_0_0_var(--color-thread)]' : 'hover:bg-raised/60'}`}
      onClick={() => select(find.id)}
    >
      <td className={`py-1.5 pl-3 ${state === 'dismissed' ? 'opacity-50' : ''}`}>
        <FindCrop find={find} />
      </td>
      <td colSpan={4} className="py-1.5 pr-3">
        <span className="flex items-baseline gap-2">
          <span className="font-mono text-xs text-soft">{number}</span>
          <span className={state === 'dismissed' ? 'text-soft line-through' : ''}>{nameOf(find)}</span>
          <span className="grow" />
          <span className={`font-mono text-xs ${find.sure >= SURE_FROM ? 'text-thread' : 'text-caution'}`}>
            {sureWords(find.sure)}
          </span>
        </span>
        <span className="flex items-baseline gap-2">
          <span className="font-mono text-xs text-soft">{placeWords(find)}</span>
          <span className="grow" />
          <span className="text-xs text-soft">{STATE_WORDS[state]}</span>
        </span>
      </td>
    </tr>
  )
}
