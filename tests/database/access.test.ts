/** Signing in, as the parts that stand before every request do it. ASVS numbers: OWASP Application Security Verification Standard 4.0.3. */
import { eq, sql } from 'drizzle-orm'
import express from 'express'
import { once } from 'node:events'
import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { accountFor, addAccount, easyPassword, hashPassword, isPassword, listAccounts, passwordSchema, removeAccount, setPassword, setRole } from '../../server/access/accounts.server' // prettier-ignore
import { requireSignIn } from '../../server/access/requireSignIn.server'
import { roleFor } from '../../server/access/roles'
import {
  accountOf,
  cookieFor,
  signIn,
  signOut,
  signOutElsewhere,
  tokenIn,
} from '../../server/access/sessions.server'
import { forgetTries, waitBefore } from '../../server/access/signInLimits.server'
import { accounts, sessions } from '../../server/db/schema'
import { ACCOUNT_HEADER, innerHeaders, isolationHeaders, policyHeaders } from '../../server/headers.server'
import { startTestServer, type TestServer } from './testServer'

let server: TestServer
let web: Server
let url: string
const db = () => server.context.database.db

beforeAll(async () => {
  server = await startTestServer()
  const app = express()
  app.use(
    innerHeaders,
    isolationHeaders,
    policyHeaders,
    requireSignIn({ needsSignIn: true }, db),
    (request: express.Request, response: express.Response) => {
      response.json({ account: request.headers[ACCOUNT_HEADER] ?? null })
    },
  )
  web = app.listen(0, '127.0.0.1')
  await once(web, 'listening')
  url = `http://127.0.0.1:${(web.address() as AddressInfo).port}`
}, 30_000)
afterAll(async () => {
  web.close()
  await server.close()
})
beforeEach(async () => void (await db().delete(accounts)))

const LONG = 'moth and lamp and street'
const ask = (path: string, token: string | null, method = 'GET', headers: Record<string, string> = {}) =>
  fetch(url + path, { method, redirect: 'manual', headers: { ...(token ? { cookie: `a=b; fillagrant=${token}` } : {}), ...headers } }) // prettier-ignore

test('passwords are kept by scrypt with the parameters of the OWASP cheat sheet, each with a salt of its own (2.4.1, 2.4.2)', async () => {
  const [one, other] = [await hashPassword(LONG), await hashPassword(LONG)]
  expect(one).toMatch(/^scrypt\$131072\$8\$1\$/)
  expect(one).not.toBe(other)
  expect(await isPassword(LONG, one)).toBe(true)
  expect(await isPassword(`${LONG} `, one)).toBe(false)
  expect(await isPassword(LONG, 'nonsense')).toBe(false)
})

test('twelve characters and more, long ones and any signs; the easily guessed are refused (2.1.1, 2.1.2, 2.1.4, 2.1.7)', () => {
  for (const good of [
    LONG,
    'ö'.repeat(3) + 'abcdefghij',
    'パスワードではないもの!1',
    'x'.repeat(60) + 'abc' + 'y'.repeat(60),
  ])
    expect(passwordSchema.safeParse(good).success).toBe(true)
  for (const bad of [
    'password12345',
    'Fillagrant!2026',
    'christopher2',
    'short',
    'elevenchars',
    'aaaaaaaaaaaaaaa',
    'Password1234',
    'x'.repeat(129),
  ])
    expect(passwordSchema.safeParse(bad).success).toBe(false)
  const made = Array.from({ length: 50 }, easyPassword)
  expect(new Set(made).size).toBe(50)
  expect(made.every((one) => passwordSchema.safeParse(one).success)).toBe(true)
})

test('a session is new with each sign-in, stored as a digest alone, and over when signed out, on the server too (3.2.1, 3.2.2, 3.3.1)', async () => {
  const anna = (await addAccount(db(), 'Anna', LONG, 'mend'))!
  expect(await accountFor(db(), 'anna', LONG)).toEqual(anna)
  expect(await accountFor(db(), 'Anna', 'wrong')).toBeNull()
  expect(await accountFor(db(), 'Nobody', LONG)).toBeNull()
  const [one, other] = [await signIn(db(), anna), await signIn(db(), anna)]
  expect(one).not.toBe(other)
  expect(Buffer.from(one, 'base64url')).toHaveLength(32)
  const rows = await db().select().from(sessions)
  expect(rows.map(({ tokenDigest }) => tokenDigest)).not.toContain(one)
  expect(await accountOf(db(), one)).toEqual(anna)
  await signOut(db(), one)
  expect(await accountOf(db(), one)).toBeNull()
  expect(await accountOf(db(), other)).toEqual(anna)
  const third = await signIn(db(), anna)
  await signOutElsewhere(db(), anna.id, third)
  expect([await accountOf(db(), other), await accountOf(db(), third)]).toEqual([null, anna])
  await setPassword(db(), anna.id, `${LONG} again`)
  expect(await accountOf(db(), third)).toBeNull()
})

test('unused for a week or a month old, a session is over (3.3.2)', async () => {
  const anna = (await addAccount(db(), 'Anna', LONG, 'mend'))!
  for (const set of [
    sql`seen_at = now() - interval '8 days'`,
    sql`created_at = now() - interval '31 days'`,
  ]) {
    const token = await signIn(db(), anna)
    expect(await accountOf(db(), token)).not.toBeNull()
    await db().execute(sql`update sessions set ${set}`)
    expect(await accountOf(db(), token)).toBeNull()
  }
})

test('the cookie cannot be read by scripts, is not sent from elsewhere, and goes by TLS alone where there is TLS (3.4.1 to 3.4.5)', () => {
  expect(cookieFor('t', true)).toBe(
    '__Host-fillagrant=t; Path=/; HttpOnly; SameSite=Lax; Max-Age=2592000; Secure',
  )
  expect(cookieFor(null, false)).toBe('fillagrant=; Path=/; HttpOnly; SameSite=Lax; Max-Age=0')
  const token = 'a'.repeat(43)
  expect(tokenIn(`x=1; __Host-fillagrant=${token}`)).toBe(token)
  expect(tokenIn(`notfillagrant=${token}`)).toBeNull()
  expect(tokenIn("fillagrant=' or 1=1")).toBeNull()
})

test('whoever is not signed in gets no further, whatever they say they are (4.1.1, 4.1.2)', async () => {
  const page = await ask('/shots/x/mend?frame=3', null, 'GET', { accept: 'text/html' })
  expect([page.status, page.headers.get('location')]).toEqual([
    302,
    '/sign-in?to=%2Fshots%2Fx%2Fmend%3Fframe%3D3',
  ])
  expect((await ask('/shots/x/edits', null, 'POST')).status).toBe(401)
  expect((await ask('/people.data', 'a'.repeat(43), 'GET')).status).toBe(401)
  const claimed = encodeURIComponent(JSON.stringify({ id: crypto.randomUUID(), name: 'root', role: 'run' }))
  expect((await ask('/people', null, 'GET', { [ACCOUNT_HEADER]: claimed })).status).toBe(302)
  expect(await (await ask('/sign-in', null, 'GET', { [ACCOUNT_HEADER]: claimed })).json()).toEqual({
    account: null,
  })
  expect((await ask('/assets/../people', null)).status).not.toBe(200)
})

test('each role may do what it says and no more (4.1.3, 4.2.1)', async () => {
  const tokens = new Map<string, string>()
  for (const role of ['look', 'mend', 'approve', 'run'] as const)
    tokens.set(role, await signIn(db(), (await addAccount(db(), role, LONG, role))!))
  const mayAs = async (role: string, method: string, path: string) => (await ask(path, tokens.get(role)!, method)).status === 200 // prettier-ignore
  for (const [method, path, least] of [
    ['GET', '/', 'look'],
    ['GET', '/shots/x/mend', 'look'],
    ['POST', '/shots/x/notes', 'look'],
    ['POST', '/plates/x/rects', 'look'],
    ['POST', '/sign-out', 'look'],
    ['POST', '/shots/x/edits', 'mend'],
    ['POST', '/imports', 'mend'],
    ['DELETE', '/imports/x', 'mend'],
    ['POST', '/shots/x/handover.data', 'mend'],
    ['GET', '/people', 'run'],
    ['GET', '/people.data', 'run'],
    ['POST', '/people.data', 'run'],
    ['POST', '/house', 'mend'],
  ] as const) {
    expect([path, roleFor(method, path)]).toEqual([path, least])
    const allowed = [...tokens.keys()].slice([...tokens.keys()].indexOf(least))
    for (const role of tokens.keys()) expect([method, path, role, await mayAs(role, method, path)]).toEqual([method, path, role, allowed.includes(role)]) // prettier-ignore
  }
  const refused = await ask('/people', tokens.get('mend')!)
  expect(await refused.json()).toEqual({
    message: expect.stringContaining('needs the role Run; yours is Mend'),
  })
  // A role that is taken away counts from the next request on.
  const [runs] = await db().select().from(accounts).where(eq(accounts.name, 'run'))
  await addAccount(db(), 'second', LONG, 'run')
  expect(await setRole(db(), runs!.id, 'look')).toBe(true)
  expect((await ask('/people', tokens.get('run')!)).status).toBe(403)
})

test('somebody can always run the server', async () => {
  const only = (await addAccount(db(), 'Only', LONG, 'run'))!
  expect(await setRole(db(), only.id, 'mend')).toBe(false)
  expect(await removeAccount(db(), only.id)).toBe(false)
  expect(await addAccount(db(), 'ONLY', LONG, 'look')).toBeNull()
  const second = (await addAccount(db(), 'Second', LONG, 'run'))!
  const token = await signIn(db(), only)
  expect(await removeAccount(db(), only.id)).toBe(true)
  expect(await accountOf(db(), token)).toBeNull()
  expect((await listAccounts(db())).map(({ id }) => id)).toEqual([second.id])
})

test('guessing is slow: ten wrong tries lock a name, fifty an address (2.2.1)', async () => {
  for (let i = 0; i < 10; i++) expect(await waitBefore('Berta', '192.0.2.1')).toBe(0)
  expect(await waitBefore('berta', '192.0.2.1')).toBeGreaterThan(600)
  expect(await waitBefore('Cora', '192.0.2.1')).toBe(0)
  await forgetTries('Cora')
  let tries = 0
  while ((await waitBefore(`name ${tries}`, '192.0.2.1')) === 0) tries++
  expect(tries).toBeLessThan(50)
  expect(await waitBefore('Dora', '192.0.2.2')).toBe(0)
})

test('every answer carries the policies: scripts by nonce alone, nobody frames us (14.4.1 to 14.4.7)', async () => {
  const [one, other] = [await ask('/sign-in', null), await ask('/sign-in', null)]
  const policy = one.headers.get('content-security-policy')!
  expect(policy).toMatch(/script-src 'nonce-[\w+/]{24}' 'self' 'wasm-unsafe-eval'(;|$)/)
  expect(policy).toMatch(/frame-ancestors 'none'/)
  expect(policy).toMatch(/object-src 'none'/)
  expect(policy.split(';').filter((part) => !part.startsWith('style-src-attr')).join(';')).not.toMatch(/unsafe-inline|unsafe-eval'(?<!wasm-unsafe-eval')|\*/) // prettier-ignore
  expect(other.headers.get('content-security-policy')).not.toBe(policy)
  expect(one.headers.get('x-content-type-options')).toBe('nosniff')
  expect(one.headers.get('permissions-policy')).toContain('camera=()')
  expect(one.headers.get('cross-origin-embedder-policy')).toBe('require-corp')
  expect(one.headers.get('x-powered-by')).toBeNull()
})
