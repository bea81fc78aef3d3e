/** Who is signed in: a token in the browser's cookie, its digest in the database. */
import { createHash, randomBytes } from 'node:crypto'
import { and, eq, lt, ne, or, sql } from 'drizzle-orm'
import { readConfig } from '../config.server'
import type { Database } from '../db/client.server'
import { accounts, sessions } from '../db/schema'
import type { Account } from './accounts.server'

const TOKEN_BYTES = 32
/** Unused for so long it is over; and in any case after so long. */
const IDLE_DAYS = 7
const LAST_DAYS = 30
/** Written down no more often: every frame that is shown is a request. */
const SEEN_EVERY_MS = 60_000

export const COOKIE = 'fillagrant'
export const COOKIE_SECONDS = LAST_DAYS * 86_400

const digestOf = (token: string): string => createHash('sha256').update(token).digest('hex')

/** @returns The token: it is told once, and stored nowhere. */
export async function signIn(db: Database, account: Account): Promise<string> {
  const token = randomBytes(TOKEN_BYTES).toString('base64url')
  await db.delete(sessions).where(or(lt(sessions.seenAt, daysAgo(IDLE_DAYS)), lt(sessions.createdAt, daysAgo(LAST_DAYS)))) // prettier-ignore
  await db.insert(sessions).values({ tokenDigest: digestOf(token), accountId: account.id })
  return token
}

const daysAgo = (days: number) => sql`now() - make_interval(days => ${days})`

const lastWritten = new Map<string, number>()

/** @returns null where nobody is signed in by it, or no longer. */
export async function accountOf(db: Database, token: string): Promise<Account | null> {
  const tokenDigest = digestOf(token)
  const [row] = await db
    .select({ id: accounts.id, name: accounts.name, role: accounts.role })
    .from(sessions)
    .innerJoin(accounts, eq(accounts.id, sessions.accountId))
    .where(
      and(
        eq(sessions.tokenDigest, tokenDigest),
        sql`${sessions.seenAt} > ${daysAgo(IDLE_DAYS)}`,
        sql`${sessions.createdAt} > ${daysAgo(LAST_DAYS)}`,
      ),
    )
  if (!row) {
    lastWritten.delete(tokenDigest)
    return null
  }
  const now = Date.now()
  if (now - (lastWritten.get(tokenDigest) ?? 0) > SEEN_EVERY_MS) {
    lastWritten.set(tokenDigest, now)
    await db
      .update(sessions)
      .set({ seenAt: sql`now()` })
      .where(eq(sessions.tokenDigest, tokenDigest))
  }
  return row
}

export async function signOut(db: Database, token: string): Promise<void> {
  await db.delete(sessions).where(eq(sessions.tokenDigest, digestOf(token)))
}

/** Everywhere but here. */
export async function signOutElsewhere(db: Database, accountId: string, token: string): Promise<void> {
  await db
    .delete(sessions)
    .where(and(eq(sessions.accountId, accountId), ne(sessions.tokenDigest, digestOf(token))))
}

/** The token of a request's `Cookie` header. */
export const tokenIn = (cookies: string | null | undefined): string | null =>
  /(?:^|;\s*)(?:__Host-)?fillagrant=([\w-]{43})(?:;|$)/.exec(cookies ?? '')?.[1] ?? null

/** As `Set-Cookie`. @param isSecure  Pages come over TLS: then nothing else may carry it. */
export const cookieFor = (token: string | null, isSecure: boolean): string =>
  `${isSecure ? '__Host-' : ''}${COOKIE}=${token ?? ''}; Path=/; HttpOnly; SameSite=Lax; Max-Age=${token === null ? 0 : COOKIE_SECONDS}${isSecure ? '; Secure' : ''}`

/** Whether people reach us over TLS. */
export const isSecure = (): boolean => readConfig().publicUrl?.protocol === 'https:'
