/** Who asks, as the guard has found it. */
import { z } from 'zod'
import { mayAs, ROLE_WORDS, ROLES, type Role } from '../../core/jobs/roles'
import { readConfig } from '../config.server'
import { ACCOUNT_HEADER } from '../headers.server'
import type { Account } from './accounts.server'

const accountSchema = z.object({ id: z.uuid(), name: z.string(), role: z.enum(ROLES) })

/** null where nobody signs in: on this machine alone. */
export function whoAsks(request: Request): Account | null {
  const header = request.headers.get(ACCOUNT_HEADER)
  return header === null ? null : accountSchema.parse(JSON.parse(decodeURIComponent(header)))
}

/** @throws Response 403 in words. Where nobody signs in everybody may do everything. */
export function requireRole(request: Request, needed: Role): Account | null {
  const account = whoAsks(request)
  if (account ? mayAs(account.role, needed) : !readConfig().needsSignIn) return account
  throw Response.json({ ok: false, message: `This needs the role ${ROLE_WORDS[needed].title}. Ask whoever runs this server.` }, { status: 403 }) // prettier-ignore
}
