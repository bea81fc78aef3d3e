/** Everybody signs in where others than this machine's users can reach us; then their role must allow what they ask. */
import type { RequestHandler } from 'express'
import { mayAs, ROLE_WORDS } from '../../core/jobs/roles'
import type { Config } from '../config.server'
import type { Database } from '../db/client.server'
import { ACCOUNT_HEADER } from '../headers.server'
import { roleFor } from './roles'
import { accountOf, tokenIn } from './sessions.server'

/** What can be asked for without being signed in; the manifest tells which routes there are, as the source does. */
const OPEN = /^\/(health|sign-in(\.data)?|__manifest)$/

export function requireSignIn(
  { needsSignIn }: Pick<Config, 'needsSignIn'>,
  db: () => Database,
): RequestHandler {
  return async (request, response, next) => {
    if (!needsSignIn || request.path === '/health') return next()
    const token = tokenIn(request.headers.cookie)
    const account = token === null ? null : await accountOf(db(), token)
    if (account) request.headers[ACCOUNT_HEADER] = encodeURIComponent(JSON.stringify(account))
    if (OPEN.test(request.path)) return next()
    response.set('Cache-Control', 'no-store')
    if (!account) {
      const isPage = request.method === 'GET' && request.accepts('html', 'json') === 'html' && !request.path.endsWith('.data') // prettier-ignore
      if (isPage) response.redirect(302, `/sign-in?to=${encodeURIComponent(request.originalUrl)}`)
      else response.status(401).json({ message: 'You are not signed in, or no longer. Open the page in another tab, sign in, and come back: what is not saved is kept here.' }) // prettier-ignore
      return
    }
    const needed = roleFor(request.method, request.path)
    if (mayAs(account.role, needed)) {
      response.removeHeader('Cache-Control')
      return next()
    }
    response.status(403).json({ message: `This needs the role ${ROLE_WORDS[needed].title}; yours is ${ROLE_WORDS[account.role].title}. Ask whoever runs this server.` }) // prettier-ignore
  }
}
