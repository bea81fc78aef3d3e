/** Who is signed in, and the way out; nothing where nobody signs in. */
import { DropdownMenu } from 'radix-ui'
import { ChevronDown } from 'lucide-react'
import { MENU, MENU_ITEM } from '../column/buttonStyles'
import { Link, useRouteLoaderData, useSubmit } from 'react-router'

interface RootData {
  readonly account: { readonly name: string; readonly role: string } | null
}

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
        <DropdownMenu.Content align="end" sideOffset={4} className={MENU}>
          <DropdownMenu.Item asChild>
            <Link to="/account" className={MENU_ITEM}>
              Account
            </Link>
          </DropdownMenu.Item>
          {account.role === 'run' && (
            <DropdownMenu.Item asChild>
              <Link to="/people" className={MENU_ITEM}>
                People
              </Link>
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item
            className={MENU_ITEM}
            onSelect={() => void submit(null, { method: 'post', action: '/sign-out' })}
          >
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
