import { data, Form, useActionData } from 'react-router'
import { z } from 'zod'
import {
  addAccount,
  easyPassword,
  listAccounts,
  nameSchema,
  removeAccount,
  roleSchema,
  setPassword,
  setRole,
} from '../../server/access/accounts.server'
import { ROLE_WORDS } from '../../core/jobs/roles'
import { requireRole } from '../../server/access/whoAsks.server'
import { database } from '../../server/db/client.server'
import { log } from '../../server/log.server'
import { SMALL_BUTTON } from '../../workbench/column/buttonStyles'
import { TopBar } from '../../workbench/shell/TopBar'
import type { Route } from './+types/people'

export const meta: Route.MetaFunction = () => [{ title: 'People · Fillagrant' }]

const id = z.uuid()
const orderSchema = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('add'), name: nameSchema, role: roleSchema }),
  z.object({ intent: z.literal('role'), id, role: roleSchema }),
  z.object({ intent: z.literal('password'), id }),
  z.object({ intent: z.literal('remove'), id }),
])

export async function loader({ request }: Route.LoaderArgs) {
  requireRole(request, 'run')
  return { people: await listAccounts(database().db) }
}

interface Answer {
  readonly ok: boolean
  readonly message: string
  /** Shown once, to be handed on. */
  readonly password?: string
}

const LAST =
  'Somebody must be able to run this server. Nothing was changed: give somebody else the role Run first.'

async function change(order: z.output<typeof orderSchema>): Promise<Answer> {
  const { db } = database()
  switch (order.intent) {
    case 'add': {
      const password = easyPassword()
      const made = await addAccount(db, order.name, password, order.role)
      return made
        ? {
            ok: true,
            message: `${made.name} signs in with this password, and changes it under Account:`,
            password,
          }
        : { ok: false, message: `Somebody is called ${order.name} already. Choose another name.` }
    }
    case 'role':
      return (await setRole(db, order.id, order.role)) ? { ok: true, message: 'The role is changed.' } : { ok: false, message: LAST } // prettier-ignore
    case 'password': {
      const password = easyPassword()
      return (await setPassword(db, order.id, password))
        ? {
            ok: true,
            message: 'Signed out everywhere. The new password, to be changed under Account:',
            password,
          }
        : { ok: false, message: 'This account is gone.' }
    }
    case 'remove':
      return (await removeAccount(db, order.id)) ? { ok: true, message: 'The account is gone, and signed out everywhere.' } : { ok: false, message: LAST } // prettier-ignore
  }
}

export async function action({ request }: Route.ActionArgs) {
  const by = requireRole(request, 'run')
  const order = orderSchema.safeParse(Object.fromEntries(await request.formData()))
  if (!order.success)
    return data<Answer>({ ok: false, message: order.error.issues[0]!.message }, { status: 400 })
  const answer = await change(order.data)
  log.info({ by: by?.name, intent: order.data.intent, ok: answer.ok }, 'people changed')
  return data(answer, { headers: { 'Cache-Control': 'no-store' } })
}

function RoleChoice({ value, label }: { value?: string; label: string }) {
  return (
    <select
      name="role"
      defaultValue={value ?? 'mend'}
      aria-label={label}
      className="rounded-sm bg-well px-2 py-1"
    >
      {Object.entries(ROLE_WORDS).map(([role, { title, help }]) => (
        <option key={role} value={role}>
          {title}: {help}
        </option>
      ))}
    </select>
  )
}

export default function People({ loaderData }: Route.ComponentProps) {
  const answer = useActionData<typeof action>()
  return (
    <div className="flex min-h-screen flex-col">
      <TopBar productionName="All productions" shots={[]} stage="shots" />
      <main className="mx-auto w-full max-w-5xl grow p-6">
        <h1 className="text-xl font-bold">People</h1>
        <p className="mt-1 text-soft">
          Who signs in, and what each may do: each role may also do what those before it may.
        </p>
        {answer && (
          <p role="status" className={`mt-3 ${answer.ok ? '' : 'text-snag'}`}>
            {answer.message}{' '}
            {answer.password && <output className="font-mono font-bold select-all">{answer.password}</output>}
          </p>
        )}
        <table className="mt-5 w-full text-left">
          <thead className="text-soft">
            <tr>
              <th className="py-1 font-normal">Name</th>
              <th className="font-normal">Role</th>
              <th className="font-normal">Last seen</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {loaderData.people.map((person) => (
              <tr key={person.id} className="border-t border-line" data-testid="person">
                <td className="py-2 font-semibold">{person.name}</td>
                <td>
                  <Form method="post" className="flex gap-2">
                    <input type="hidden" name="id" value={person.id} />
                    <RoleChoice key={person.role} value={person.role} label={`Role of ${person.name}`} />
                    <button type="submit" name="intent" value="role" className={SMALL_BUTTON}>
                      Set
                    </button>
                  </Form>
                </td>
                <td className="text-soft">{person.seenAt ? person.seenAt.slice(0, 16) : 'not signed in'}</td>
                <td>
                  <Form method="post" className="flex justify-end gap-2">
                    <input type="hidden" name="id" value={person.id} />
                    <button type="submit" name="intent" value="password" className={SMALL_BUTTON}>
                      New password
                    </button>
                    <button type="submit" name="intent" value="remove" className={SMALL_BUTTON}>
                      Remove
                    </button>
                  </Form>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Form key={loaderData.people.length} method="post" className="mt-8 flex items-end gap-3">
          <label>
            Name
            <input
              name="name"
              required
              maxLength={60}
              className="mt-1 block rounded-sm bg-well px-2 py-1.5"
            />
          </label>
          <RoleChoice label="Role of the new person" />
          <button
            type="submit"
            name="intent"
            value="add"
            className="rounded-sm bg-thread px-3 py-1.5 font-semibold text-well"
          >
            Add a person
          </button>
        </Form>
      </main>
    </div>
  )
}
