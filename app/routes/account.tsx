import { data, Form, useActionData } from 'react-router'
import { z } from 'zod'
import { accountFor, passwordSchema, setPassword } from '../../server/access/accounts.server'
import { cookieFor, isSecure, signIn, signOutElsewhere, tokenIn } from '../../server/access/sessions.server'
import { waitBefore } from '../../server/access/signInLimits.server'
import { whoAsks } from '../../server/access/whoAsks.server'
import { database } from '../../server/db/client.server'
import { ADDRESS_HEADER } from '../../server/headers.server'
import { log } from '../../server/log.server'
import { TopBar } from '../../workbench/shell/TopBar'
import type { Route } from './+types/account'

export const meta: Route.MetaFunction = () => [{ title: 'Account · Fillagrant' }]

const formSchema = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('password'), old: z.string().max(200), new: passwordSchema }),
  z.object({ intent: z.literal('elsewhere') }),
])

export function loader({ request }: Route.LoaderArgs) {
  const account = whoAsks(request)
  if (!account)
    throw new Response('Nobody signs in here: this server is for this machine alone.', { status: 404 })
  return { name: account.name, role: account.role }
}

export async function action({ request }: Route.ActionArgs) {
  const account = whoAsks(request)
  if (!account) throw new Response('Nobody signs in here.', { status: 404 })
  const { db } = database()
  const form = formSchema.safeParse(Object.fromEntries(await request.formData()))
  if (!form.success) return data({ ok: false, message: form.error.issues[0]!.message }, { status: 400 })
  if (form.data.intent === 'elsewhere') {
    await signOutElsewhere(db, account.id, tokenIn(request.headers.get('cookie'))!)
    log.info({ name: account.name }, 'signed out everywhere else')
    return data({ ok: true, message: 'Signed out everywhere else.' })
  }
  const seconds = await waitBefore(account.name, request.headers.get(ADDRESS_HEADER) ?? 'unknown')
  if (seconds > 0) return data({ ok: false, message: `Too many wrong tries. Try again in ${Math.ceil(seconds / 60)} minutes.` }, { status: 429 }) // prettier-ignore
  if (!(await accountFor(db, account.name, form.data.old)))
    return data(
      { ok: false, message: 'The password that you have now is not this. Nothing was changed.' },
      { status: 400 },
    )
  await setPassword(db, account.id, form.data.new)
  log.info({ name: account.name }, 'password changed')
  // Every session is over, this one too: it goes on under a new token.
  const token = await signIn(db, account)
  return data(
    { ok: true, message: 'The password is changed. Everywhere else you are signed out.' },
    { headers: { 'Set-Cookie': cookieFor(token, isSecure()) } },
  )
}

export default function AccountPage({ loaderData }: Route.ComponentProps) {
  const answer = useActionData<typeof action>()
  const field = 'mt-1 w-full rounded-sm bg-well px-2 py-1.5'
  const button = 'self-start rounded-sm border border-line px-3 py-1.5 hover:bg-raised'
  return (
    <div className="flex min-h-screen flex-col">
      <TopBar productionName="All productions" shots={[]} stage="shots" />
      <main className="mx-auto w-96 grow p-6">
        <h1 className="text-xl font-bold">{loaderData.name}</h1>
        {answer && (
          <p role="status" className={`mt-3 ${answer.ok ? 'text-soft' : 'text-snag'}`}>
            {answer.message}
          </p>
        )}
        <Form method="post" className="mt-6 flex flex-col gap-3">
          <h2 className="font-semibold">Change the password</h2>
          <input type="hidden" name="username" autoComplete="username" value={loaderData.name} readOnly />
          <label>
            As it is now
            <input name="old" type="password" autoComplete="current-password" required className={field} />
          </label>
          <label>
            New, at least 12 characters
            <input
              name="new"
              type="password"
              autoComplete="new-password"
              required
              minLength={12}
              className={field}
            />
          </label>
          <button type="submit" name="intent" value="password" className={button}>
            Change
          </button>
        </Form>
        <Form method="post" className="mt-8 flex flex-col gap-3">
          <h2 className="font-semibold">Other browsers</h2>
          <button type="submit" name="intent" value="elsewhere" className={button}>
            Sign out everywhere else
          </button>
        </Form>
      </main>
    </div>
  )
}
