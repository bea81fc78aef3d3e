/** The head of a column that sorts its table. */
import { ArrowDown, ArrowUp } from 'lucide-react'

interface SortHeaderProps {
  readonly title: string
  readonly sorted: false | 'asc' | 'desc'
  readonly className: string
  onToggle?(event: unknown): void
}

export function SortHeader({ title, sorted, className, onToggle }: SortHeaderProps) {
  const Arrow = sorted === 'asc' ? ArrowUp : ArrowDown
  return (
    <th
      aria-sort={sorted === false ? 'none' : sorted === 'asc' ? 'ascending' : 'descending'}
      className={`py-1 font-normal ${className}`}
    >
      <button
        type="button"
        className={`inline-flex items-center gap-0.5 text-xs ${sorted ? 'text-ink' : 'text-soft hover:text-ink'}`}
        onClick={onToggle}
      >
        {title}
        {sorted && <Arrow aria-hidden className="size-3" />}
      </button>
    </th>
  )
}
