import { redirect } from 'react-router'
import { cookieFor, isSecure, signOut, tokenIn } from '../../server/access/sessions.server'
import { database } from '../../server/db/client.server'
import type { Route } from './+types/signOut'

/** Ends the session on the server too: a cookie that was copied is worth nothing after. */
export async function action({ request }: Route.ActionArgs) {
  const token = tokenIn(request.headers.get('cookie'))
  if (token) await signOut(database().db, token)
  return redirect('/sign-in', { headers: { 'Set-Cookie': cookieFor(null, isSecure()) } })
}
