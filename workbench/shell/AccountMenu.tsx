/** Who is signed in, and the way out; nothing where nobody signs in. */
import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'
import { Link, useRouteLoaderData, useSubmit } from 'react-router'

interface RootData {
  readonly account: { readonly name: string; readonly role: string } | null
}

const ITEM = 'block w-full rounded-xs px-2 py-1 text-left outline-none data-highlighted:bg-lifted'

export function AccountMenu() {
  const account = useRouteLoaderData<RootData>('root')?.account
  const submit = useSubmit()
  if (!account) return null
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex items-center gap-1 rounded-sm bg-raised px-2 py-0.5 whitespace-nowrap hover:bg-lifted"
        aria-label={`Signed in as ${account.name}`}
      >
        {account.name} <ChevronDown aria-hidden className="size-3.5 text-soft" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={4}
          className="z-20 rounded-sm border border-line bg-raised p-1 shadow-xl"
        >
          <DropdownMenu.Item asChild>
            <Link to="/account" className={ITEM}>
              Account
            </Link>
          </DropdownMenu.Item>
          {account.role === 'run' && (
            <DropdownMenu.Item asChild>
              <Link to="/people" className={ITEM}>
                People
              </Link>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item
            className={ITEM}
            onSelect={() => void submit(null, { method: 'post', action: '/sign-out' })}
          >
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
