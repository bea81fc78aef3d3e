import { Link, NavLink } from 'react-router'
import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'
import { Fragment, type ReactNode } from 'react'
import { AccountMenu } from './AccountMenu'

export interface ShotLink {
  readonly id: string
  readonly name: string
  /** Its picture is all-round: it has a page to look around. */
  readonly isAllRound?: boolean
  /** The all-round shot that it is a view of. */
  readonly viewOf?: { readonly id: string; readonly name: string } | null
}

export interface TopBarProps {
  readonly productionName: string
  readonly shot?: ShotLink
  readonly shots: readonly ShotLink[]
  /** Where the shot switcher leads: the stage that is open. */
  readonly stage: 'shots' | 'around' | 'survey' | 'mend' | 'proof' | 'handover'
  /** The frame that is looked at: the other stages open there. */
  readonly frame?: number
  readonly children?: ReactNode
}

/** Our mark: a thread that crosses a small frame and vanishes in its middle. */
function Mark() {
  return (
    <svg viewBox="0 0 32 32" className="size-6" aria-hidden fill="none" strokeLinecap="round">
      <rect x="6" y="7" width="20" height="18" rx="2.5" stroke="var(--color-ink)" strokeWidth="2.4" />
      <path d="M1 20Q7 15 13 16.4M20 15.4Q26 14 31 9" stroke="var(--color-thread)" strokeWidth="2.6" />
    </svg>
  )
}

/** The bar above every stage: where you are, the stages in the order of the work, what is saved. */
export function TopBar({ productionName, shot, shots, stage, frame, children }: TopBarProps) {
  const at = frame === undefined ? '' : `?frame=${frame}`
  const stages = [
    { id: 'shots', title: 'Shots', to: '/' },
    ...(shot && (shot.isAllRound || stage === 'around')
      ? [{ id: 'around', title: 'Around', to: `/shots/${shot.id}/around` }]
      : []),
    ...(shot?.viewOf
      ? [{ id: 'around', title: `Around ${shot.viewOf.name}`, to: `/shots/${shot.viewOf.id}/around` }]
      : []),
    ...(shot
      ? [
          { id: 'survey', title: 'Survey', to: `/shots/${shot.id}/survey${at}` },
          { id: 'mend', title: 'Mend', to: `/shots/${shot.id}/mend${at}` },
          { id: 'proof', title: 'Proof', to: `/shots/${shot.id}/proof${at}` },
          { id: 'handover', title: 'Handover', to: `/shots/${shot.id}/handover${at}` },
        ]
      : []),
  ]
  return (
    <header className="flex h-11 shrink-0 items-center gap-3 border-b border-line bg-panel px-3">
      <Link to="/" className="flex items-center gap-2 text-base font-bold">
        <Mark />
        Fillagrant
      </Link>
      <ShotSwitcher productionName={productionName} shot={shot} shots={shots} stage={stage} />
      <nav aria-label="Stages" className="mx-auto flex min-w-0 items-center gap-2">
        {stages.map(({ id, title, to }, index) => (
          <Fragment key={id}>
            {index > 0 && <span aria-hidden className="w-7 min-w-0 border-t-2 border-dashed border-lifted" />}
            <NavLink
              to={to}
              end
              className={`flex shrink-0 items-center gap-1.5 rounded-xs px-1 ${id === stage ? 'font-bold' : 'text-soft hover:text-ink'}`}
              aria-current={id === stage ? 'page' : undefined}
            >
              <span
                aria-hidden
                className={`size-2.5 rounded-full border-2 ${id === stage ? 'border-thread' : 'border-soft'}`}
              />
              {title}
            </NavLink>
          </Fragment>
        ))}
      </nav>
      <div className="flex min-w-40 items-center justify-end gap-2">
        {children}
        <AccountMenu />
      </div>
    </header>
  )
}

function ShotSwitcher({ productionName, shot, shots, stage }: Omit<TopBarProps, 'children'>) {
  if (!shot) return <span className="rounded-sm bg-raised px-2 py-0.5 text-soft">{productionName}</span>
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex min-w-0 items-center gap-1.5 rounded-sm bg-raised px-2 py-0.5 whitespace-nowrap hover:bg-lifted"
        aria-label={`Shot ${shot.name}. Choose another.`}
      >
        <span className="min-w-0 truncate text-soft">{productionName} /</span>{' '}
        <span className="font-mono font-bold">{shot.name}</span>
        <ChevronDown aria-hidden className="size-3.5 text-soft" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-20 max-h-80 overflow-y-auto rounded-sm border border-line bg-raised p-1 shadow-xl"
        >
          {shots.map(({ id, name }) => (
            <DropdownMenu.Item key={id} asChild>
              <Link
                to={`/shots/${id}/${stage === 'shots' || stage === 'around' ? 'mend' : stage}`}
                reloadDocument
                className="block rounded-xs px-2 py-1 font-mono outline-none data-highlighted:bg-lifted"
              >
                {name}
              </Link>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
