/** People who sign in, and their passwords. */
import { randomBytes, randomUUID, scrypt, timingSafeEqual, type ScryptOptions } from 'node:crypto'
import { promisify } from 'node:util'
import { and, asc, eq, ne, sql } from 'drizzle-orm'
import { dictionary } from '@zxcvbn-ts/language-common'
import { z } from 'zod'
import type { Database } from '../db/client.server'
import { ROLES, type Role } from '../../core/jobs/roles'
import { accounts, sessions } from '../db/schema'

export interface Account {
  readonly id: string
  readonly name: string
  readonly role: Role
}

/** OWASP Password Storage Cheat Sheet, scrypt: N = 2^17, r = 8, p = 1. Some 130 MB and a third of a second for each. */
const COST = { N: 2 ** 17, r: 8, p: 1 } as const
const KEY_BYTES = 32
const SALT_BYTES = 16
const derive = promisify<string, Buffer, number, ScryptOptions, Buffer>(scrypt)
const options = (N: number, r: number, p: number): ScryptOptions => ({ N, r, p, maxmem: 256 * N * r })

/** ASVS 4.0.3, 2.1.1 and 2.1.2: at least 12 characters, and long ones allowed; 2.1.9: no rules of composition. */
export const passwordSchema = z
  .string()
  .min(12, 'A password needs at least 12 characters.')
  .max(128, 'A password may have 128 characters at most.')
  .refine((text) => !isCommon(text) && new Set(text).size > 3, 'This password is too easily guessed.')

/** The 49 000 most frequent of those that were stolen and published (ASVS 2.1.7), as zxcvbn's list has them; and our own name. */
const COMMON: ReadonlySet<string> = new Set([...dictionary['passwords-common'], 'fillagrant'])

/** Also one of them with digits or signs put after it. */
function isCommon(text: string): boolean {
  const lower = text.toLowerCase()
  return COMMON.has(lower) || COMMON.has(lower.replace(/[^a-z]+$/, ''))
}

export const nameSchema = z
  .string()
  .trim()
  .min(1, 'A name is needed.')
  .max(60, 'A name may have 60 characters at most.')
  .refine(
    (text) => text.isWellFormed() && !/\p{Cc}/u.test(text),
    'This name holds characters that cannot be shown.',
  )
export const roleSchema = z.enum(ROLES)

const folded = (name: string): string => name.normalize('NFKC').toLowerCase()

export async function hashPassword(password: string): Promise<string> {
  const salt = randomBytes(SALT_BYTES)
  const key = await derive(password, salt, KEY_BYTES, options(COST.N, COST.r, COST.p))
  return ['scrypt', COST.N, COST.r, COST.p, salt.toString('base64'), key.toString('base64')].join('$')
}

export async function isPassword(password: string, hash: string): Promise<boolean> {
  const [kind, N, r, p, salt, key] = hash.split('$')
  if (kind !== 'scrypt' || !salt || !key) return false
  const wanted = Buffer.from(key, 'base64')
  const cost = options(Number(N), Number(r), Number(p))
  return timingSafeEqual(await derive(password, Buffer.from(salt, 'base64'), wanted.length, cost), wanted)
}

/** Somebody who is not known takes as long to be refused as somebody who is. */
const NOBODY = hashPassword(randomUUID())

/** @returns null when the name or the password is wrong; which of them is not told. */
export async function accountFor(db: Database, name: string, password: string): Promise<Account | null> {
  const [row] = await db
    .select()
    .from(accounts)
    .where(eq(accounts.foldedName, folded(name)))
  const isRight = await isPassword(password, row?.passwordHash ?? (await NOBODY))
  return row && isRight ? { id: row.id, name: row.name, role: row.role } : null
}

/** @returns null when somebody has the name already. */
export async function addAccount(
  db: Database,
  name: string,
  password: string,
  role: Role,
): Promise<Account | null> {
  const id = randomUUID()
  const passwordHash = await hashPassword(password)
  const [row] = await db
    .insert(accounts)
    .values({ id, name, foldedName: folded(name), passwordHash, role })
    .onConflictDoNothing()
    .returning()
  return row ? { id, name, role } : null
}

export const listAccounts = (db: Database) =>
  db
    .select({
      id: accounts.id,
      name: accounts.name,
      role: accounts.role,
      seenAt: sql<
        string | null
      >`(select max(sessions.seen_at) from sessions where sessions.account_id = accounts.id)`,
    })
    .from(accounts)
    .orderBy(asc(accounts.name))

/** Whoever was signed in under it no longer is. @returns false where there is no such account. */
export async function setPassword(db: Database, accountId: string, password: string): Promise<boolean> {
  const passwordHash = await hashPassword(password)
  return db.transaction(async (tx) => {
    const changed = await tx
      .update(accounts)
      .set({ passwordHash })
      .where(eq(accounts.id, accountId))
      .returning()
    await tx.delete(sessions).where(eq(sessions.accountId, accountId))
    return changed.length > 0
  })
}

/** Somebody must always be able to run the place. @returns false where this was the last who could. */
async function leavesSomebody(db: Pick<Database, 'select'>, accountId: string): Promise<boolean> {
  const others = await db.select({ id: accounts.id }).from(accounts).where(and(eq(accounts.role, 'run'), ne(accounts.id, accountId))).for('update') // prettier-ignore
  return others.length > 0
}

export const setRole = (db: Database, accountId: string, role: Role): Promise<boolean> =>
  db.transaction(async (tx) => {
    if (role !== 'run' && !(await leavesSomebody(tx, accountId))) return false
    await tx.update(accounts).set({ role }).where(eq(accounts.id, accountId))
    return true
  })

export const removeAccount = (db: Database, accountId: string): Promise<boolean> =>
  db.transaction(async (tx) => {
    if (!(await leavesSomebody(tx, accountId))) return false
    await tx.delete(accounts).where(eq(accounts.id, accountId))
    return true
  })

/** Easy to read out and to type: 20 letters and digits without those that look alike, 98 bits. */
export function easyPassword(): string {
  const signs = 'abcdefghjkmnpqrstuvwxyz23456789'
  // 248 is the largest multiple of their number within a byte: no sign is more likely than another.
  const picks: string[] = []
  while (picks.length < 20) for (const byte of randomBytes(20)) if (byte < 248 && picks.length < 20) picks.push(signs[byte % signs.length]!) // prettier-ignore
  return picks.join('').replace(/(.{5})(?=.)/g, '$1-')
}

export const accountNamed = async (db: Database, name: string): Promise<Account | null> =>
  (await db.select({ id: accounts.id, name: accounts.name, role: accounts.role }).from(accounts).where(eq(accounts.foldedName, folded(name))))[0] ?? null // prettier-ignore
