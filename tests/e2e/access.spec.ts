/** From another machine: over plain HTTP, and over TLS by a proxy from the registry with a certificate made here. */
import { execFileSync } from 'node:child_process'
import { createHash, X509Certificate } from 'node:crypto'
import { once } from 'node:events'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { createServer, type Server } from 'node:https'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { chromium } from '@playwright/test'
import httpProxy from 'http-proxy'
import { addAccount } from '../../server/access/accounts.server'
import { openDatabase } from '../../server/db/client.server'
import { BROWSER_PATH } from '../browserPath'
import { startApplication, type Application } from './application'
import { bringIn, MendStage } from './bench'
import { filmClip } from './demoFilm'
import { expect, test, type Page } from './test'

const NAME = 'films.test'
const PASSWORD = 'moth and lamp and street'
// A name that is no loopback name, and leads here.
const RESOLVED = `--host-resolver-rules=MAP ${NAME} 127.0.0.1`
test.use({ launchOptions: { executablePath: BROWSER_PATH, args: [RESOLVED] } })

const fewFrames = (): string => filmClip('LM_010-six.mkv', 'LM_010', { firstFrame: 1001, count: 6 })

async function addPeople(application: Application): Promise<void> {
  const { db, pool } = openDatabase(application.databaseUrl)
  for (const [name, role] of [['Anna', 'mend'], ['Lou', 'look'], ['Rhea', 'run']] as const) await addAccount(db, name, PASSWORD, role) // prettier-ignore
  await pool.end()
}

async function signIn(page: Page, name: string, password = PASSWORD): Promise<void> {
  await page.getByLabel('Name').fill(name)
  await page.getByLabel('Password').fill(password)
  await page.getByRole('button', { name: 'Sign in' }).click()
}

/** Signing in loads a page: a button can be seen before it can be pressed. */
async function choose(page: Page, name: string, item: string): Promise<void> {
  await expect(async () => {
    await page.getByRole('button', { name: `Signed in as ${name}` }).click()
    await expect(page.getByRole('menuitem', { name: item })).toBeVisible({ timeout: 1000 })
  }).toPass()
  await page.getByRole('menuitem', { name: item }).click()
}

async function signOut(page: Page, name: string): Promise<void> {
  await choose(page, name, 'Sign out')
  await expect(page).toHaveURL(/\/sign-in$/)
}

/** Footage is brought in, an area drawn and saved; loaded again it is there. */
async function mendSomething(page: Page): Promise<string> {
  const shotId = await bringIn(page, fewFrames())
  const stage = new MendStage(page)
  await stage.open(shotId, '?frame=1002')
  await stage.draw('Patch', [[300, 300], [380, 300], [380, 360], [300, 360]]) // prettier-ignore
  await stage.saved()
  await page.reload()
  await stage.settled()
  await expect(page.getByTestId('mend-card')).toHaveCount(1)
  return shotId
}

test('over plain HTTP everybody signs in, everything works, and what is missing is said', async ({
  browser,
}, { parallelIndex }) => {
  const port = 4531 + parallelIndex
  const application = await startApplication(port, { env: { FILLAGRANT_HOST: '0.0.0.0' } })
  const context = await browser.newContext({ baseURL: `http://${NAME}:${port}`, viewport: { width: 1280, height: 800 } }) // prettier-ignore
  const page = await context.newPage()
  page.setDefaultTimeout(Number(process.env['PATIENCE_MS'] ?? 180_000))
  const refused: string[] = []
  page.on(
    'console',
    (message) => /Content Security Policy/.test(message.text()) && refused.push(message.text()),
  )
  try {
    await addPeople(application)
    await page.goto('/cameras')
    await expect(page).toHaveURL(/\/sign-in\?to=%2Fcameras$/)
    await signIn(page, 'Anna', 'not my password at all')
    await expect(page.getByRole('alert')).toContainText('do not belong together')
    if (process.env['SHOT']) await page.screenshot({ path: '/tmp/signin.png' })
    await signIn(page, 'Anna')
    await expect(page).toHaveURL(/\/cameras$/)
    expect(await page.evaluate(() => window.isSecureContext)).toBe(false)
    await expect(page.getByRole('status').filter({ hasText: 'over plain HTTP' })).toBeVisible()
    await page.getByRole('button', { name: 'Close' }).click()
    const shotId = await mendSomething(page)
    // Who only looks may look, and is told why nothing is changed.
    const post = (path: string) =>
      page.evaluate(async (to) => {
        const response = await fetch(to, {
          method: 'POST',
          headers: { 'Content-Type': 'application/json' },
          body: '{}',
        })
        return { status: response.status, ...((await response.json()) as { message: string }) }
      }, path)
    await signOut(page, 'Anna')
    expect((await post(`/shots/${shotId}/edits`)).status).toBe(401)
    await signIn(page, 'Lou')
    await expect(page.getByTestId('shot-card')).toHaveCount(1)
    expect(await post(`/shots/${shotId}/edits`)).toEqual({ status: 403, message: expect.stringContaining('needs the role Mend') }) // prettier-ignore
    expect((await page.goto('/people'))!.status()).toBe(403)
    expect(refused).toEqual([])
  } finally {
    await context.close()
    await application.stop()
  }
})

test('whoever runs the server adds people, gives roles and new passwords; passwords are changed by their owners', async ({
  browser,
}, { parallelIndex }) => {
  const port = 4535 + parallelIndex
  const application = await startApplication(port, { hasWorker: false, env: { FILLAGRANT_HOST: '0.0.0.0' } })
  const context = await browser.newContext({ baseURL: `http://${NAME}:${port}`, viewport: { width: 1280, height: 800 } }) // prettier-ignore
  const page = await context.newPage()
  page.setDefaultTimeout(Number(process.env['PATIENCE_MS'] ?? 180_000))
  try {
    await addPeople(application)
    await page.goto('/people')
    await signIn(page, 'Rhea')
    await expect(page.getByTestId('person')).toHaveCount(3)
    await page.getByRole('textbox', { name: 'Name' }).fill('Ben')
    await page.getByRole('combobox', { name: 'Role of the new person' }).selectOption('approve')
    await page.getByRole('button', { name: 'Add a person' }).click()
    const password = await page.getByRole('status').locator('output').innerText()
    await expect(page.getByTestId('person')).toHaveCount(4)
    if (process.env['SHOT']) await page.screenshot({ path: '/tmp/people.png' })
    const me = page.getByTestId('person').filter({ hasText: 'Rhea' })
    await me.getByRole('combobox').selectOption('look')
    await me.getByRole('button', { name: 'Set' }).click()
    await expect(page.getByText('Somebody must be able to run')).toBeVisible()
    await signOut(page, 'Rhea')
    await signIn(page, 'Ben', password)
    await choose(page, 'Ben', 'Account')
    await page.getByLabel('As it is now').fill(password)
    await page.getByLabel('New, at least').fill('another lamp in the street')
    await page.getByRole('button', { name: 'Change' }).click()
    await expect(page.getByRole('status').first()).toContainText('The password is changed')
    await page.reload()
    await signOut(page, 'Ben')
    await signIn(page, 'Ben', password)
    await expect(page.getByRole('alert')).toContainText('do not belong together')
    await signIn(page, 'Ben', 'another lamp in the street')
    await expect(page.getByRole('button', { name: 'Signed in as Ben' })).toBeVisible()
  } finally {
    await context.close()
    await application.stop()
  }
})

interface TlsProxy {
  readonly server: Server
  /** SHA-256 of its public key, as base64: a browser that is told it takes the certificate for a trusted one. */
  readonly keyHash: string
}

async function startTlsProxy(port: number, target: string): Promise<TlsProxy> {
  const folder = mkdtempSync(join(tmpdir(), 'fillagrant-tls-'))
  const [key, cert] = [join(folder, 'key.pem'), join(folder, 'cert.pem')]
  execFileSync('openssl', ['req', '-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', '-subj', `/CN=${NAME}`, '-addext', `subjectAltName=DNS:${NAME}`, '-keyout', key, '-out', cert], { stdio: 'ignore' }) // prettier-ignore
  const certificate = readFileSync(cert)
  const publicKey = new X509Certificate(certificate).publicKey.export({ type: 'spki', format: 'der' })
  const proxy = httpProxy.createProxyServer({ target, xfwd: true })
  // The connection to the application ends with each answer; the browser's own stays.
  proxy.on('proxyRes', (answer) => void delete answer.headers.connection)
  proxy.on('error', (_cause, _request, response) => {
    if ('writeHead' in response && !response.headersSent) response.writeHead(502)
    response.end()
  })
  const server = createServer({ key: readFileSync(key), cert: certificate }, (request, response) => proxy.web(request, response)) // prettier-ignore
  rmSync(folder, { recursive: true })
  server.listen(port, '127.0.0.1')
  await once(server, 'listening')
  return { server, keyHash: createHash('sha256').update(publicKey).digest('base64') }
}

test('behind a TLS proxy everything works, with shared memory and a cookie that goes by TLS alone', async ({
  browserName: _browserName,
}, { parallelIndex }) => {
  const [port, tlsPort] = [4539 + parallelIndex, 4543 + parallelIndex]
  const origin = `https://${NAME}:${tlsPort}`
  const application = await startApplication(port, { env: { FILLAGRANT_PUBLIC_URL: origin } })
  const proxy = await startTlsProxy(tlsPort, application.url)
  // A certificate that is passed over anew with every connection makes a request be begun again and again, until the browser gives up.
  const browser = await chromium.launch({
    executablePath: BROWSER_PATH,
    args: [RESOLVED, `--ignore-certificate-errors-spki-list=${proxy.keyHash}`],
  })
  const context = await browser.newContext({ baseURL: origin, viewport: { width: 1280, height: 800 } }) // prettier-ignore
  const page = await context.newPage()
  page.setDefaultTimeout(Number(process.env['PATIENCE_MS'] ?? 180_000))
  try {
    await addPeople(application)
    await page.goto('/')
    await signIn(page, 'Anna')
    await expect(page).toHaveURL(`${origin}/`)
    expect(await page.evaluate(() => window.crossOriginIsolated)).toBe(true)
    await expect(page.getByText('over plain HTTP')).toHaveCount(0)
    const [cookie] = await context.cookies()
    expect(cookie).toMatchObject({ name: '__Host-fillagrant', secure: true, httpOnly: true, sameSite: 'Lax' })
    await mendSomething(page)
    // Past the proxy, and under another name, nobody is answered.
    expect((await fetch(`${application.url}/`)).status).toBe(421)
  } finally {
    await browser.close()
    proxy.server.closeAllConnections()
    proxy.server.close()
    await application.stop()
  }
})
