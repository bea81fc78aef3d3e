import { data, Form, redirect, useActionData, useNavigation } from 'react-router'
import { z } from 'zod'
import { accountFor } from '../../server/access/accounts.server'
import { forgetTries, waitBefore } from '../../server/access/signInLimits.server'
import { cookieFor, isSecure, signIn } from '../../server/access/sessions.server'
import { whoAsks } from '../../server/access/whoAsks.server'
import { database } from '../../server/db/client.server'
import { ADDRESS_HEADER } from '../../server/headers.server'
import { log } from '../../server/log.server'
import type { Route } from './+types/signIn'

export const meta: Route.MetaFunction = () => [{ title: 'Sign in · Fillagrant' }]

/** Only to a page of our own: never to another server, which an address that begins with two strokes would be. */
const placeSchema = z
  .string()
  .regex(/^\/(?![/\\])[^\\]*$/)
  .catch('/')

const formSchema = z.object({ name: z.string().min(1).max(200), password: z.string().min(1).max(200) })

export function loader({ request }: Route.LoaderArgs) {
  if (whoAsks(request)) throw redirect(placeSchema.parse(new URL(request.url).searchParams.get('to')))
  return null
}

export async function action({ request }: Route.ActionArgs) {
  const form = formSchema.safeParse(Object.fromEntries(await request.formData()))
  if (!form.success) return data({ message: 'Type your name and your password.' }, { status: 400 })
  const { name, password } = form.data
  const address = request.headers.get(ADDRESS_HEADER) ?? 'unknown'
  const seconds = await waitBefore(name, address)
  if (seconds > 0)
    return data(
      {
        message: `Too many wrong tries. Try again in ${Math.ceil(seconds / 60)} minutes, or ask whoever runs this server.`,
      },
      { status: 429 },
    )
  const { db } = database()
  const account = await accountFor(db, name, password)
  if (!account) {
    log.warn({ name, address }, 'sign-in refused: wrong name or password')
    return data({ message: 'This name and this password do not belong together.' }, { status: 401 })
  }
  await forgetTries(name)
  log.info({ name: account.name, address }, 'signed in')
  const token = await signIn(db, account)
  const to = placeSchema.parse(new URL(request.url).searchParams.get('to'))
  return redirect(to, { headers: { 'Set-Cookie': cookieFor(token, isSecure()) } })
}

const FIELD = 'mt-1 w-full rounded-sm bg-well px-2 py-1.5'

export default function SignIn() {
  const answer = useActionData<typeof action>()
  const isBusy = useNavigation().state === 'submitting'
  return (
    <main className="mx-auto mt-24 w-80 p-6">
      <h1 className="text-xl font-bold">Fillagrant</h1>
      <Form method="post" reloadDocument className="mt-6 flex flex-col gap-4">
        <label>
          Name
          <input name="name" autoComplete="username" required autoFocus className={FIELD} />
        </label>
        <label>
          Password
          <input name="password" type="password" autoComplete="current-password" required className={FIELD} />
        </label>
        {answer?.message && (
          <p role="alert" className="text-snag">
            {answer.message}
          </p>
        )}
        <button
          type="submit"
          disabled={isBusy}
          className="self-start rounded-sm bg-thread px-3 py-1.5 font-semibold text-well disabled:opacity-50"
        >
          {isBusy ? 'Signing in…' : 'Sign in'}
        </button>
      </Form>
      <p className="mt-6 text-soft">
        Forgotten? Whoever runs this server sets a new password, or resets it on its console: npm run people.
      </p>
    </main>
  )
}
