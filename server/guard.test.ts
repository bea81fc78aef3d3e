import { createServer, request, type Server } from 'node:http'
import express from 'express'
import type { AddressInfo } from 'node:net'
import { readConfig } from './config.server'
import { requireCleanAddress, requireKnownHost, requireSameOrigin, requireShortForms } from './guard'

let server: Server
let port: number
beforeAll(async () => {
  const app = express()
  app.use(
    requireCleanAddress,
    requireKnownHost({ isLoopback: true, publicUrl: null }),
    requireSameOrigin,
    requireShortForms,
    (_request, response) => void response.send('in'),
  )
  server = createServer(app).listen(0, '127.0.0.1')
  await new Promise((resolve) => server.once('listening', resolve))
  port = (server.address() as AddressInfo).port
})
afterAll(() => void server.close())

/** fetch forbids some of these headers, so the request is made by hand. */
function ask(method: string, headers: Record<string, string>, path = '/'): Promise<number> {
  return new Promise((resolve, reject) => {
    const sent = request(
      { host: '127.0.0.1', port, path, method, headers: { host: `127.0.0.1:${port}`, ...headers } },
      (response) => {
        response.resume()
        resolve(response.statusCode!)
        if (!sent.writableEnded) sent.destroy()
      },
    )
    sent.on('error', reject)
    // Answered before it is sent: the announced length is enough.
    if (Number(headers['content-length'] ?? 0) > 0) sent.flushHeaders()
    else sent.end()
  })
}

test('on loopback only loopback names are answered', async () => {
  expect(await ask('GET', { host: 'films.example:4380' })).toBe(421)
  expect(await ask('GET', { host: `localhost:${port}` })).toBe(200)
})

test('changes come from our own pages only', async () => {
  expect(await ask('POST', {})).toBe(403)
  expect(await ask('POST', { origin: 'http://films.example' })).toBe(403)
  expect(await ask('POST', { origin: 'null' })).toBe(403)
  expect(await ask('DELETE', { origin: `http://127.0.0.1:${port}` })).toBe(200)
})

test('an address that is no text is refused', async () => {
  for (const path of ['/shots/%00', '/shots/%ff', '/shots/a%0d%0ab', `/${'x'.repeat(9000)}`])
    expect(await ask('GET', {}, path)).toBe(400)
  expect(await ask('GET', {}, '/shots/m%C3%BChle?frame=1%202')).toBe(200)
})

test('forms say how long they are, and are short', async () => {
  const form = { origin: `http://127.0.0.1:${port}`, 'content-type': 'application/x-www-form-urlencoded' }
  expect(await ask('POST', { ...form, 'content-length': String(2 ** 21) })).toBe(413)
  expect(await ask('POST', { ...form, 'transfer-encoding': 'chunked' })).toBe(411)
  expect(await ask('POST', { ...form, 'content-length': '0' })).toBe(200)
})

test('all of 127.0.0.0/8 is loopback; behind a proxy only the name that people type is answered', async () => {
  expect(readConfig({ DATABASE_URL: 'x', FILLAGRANT_HOST: '127.0.0.2' })).toMatchObject({ isLoopback: true, needsSignIn: false }) // prettier-ignore
  const proxied = readConfig({ DATABASE_URL: 'x', FILLAGRANT_PUBLIC_URL: 'https://films.example' })
  expect(proxied).toMatchObject({ isLoopback: true, needsSignIn: true })
  const behind = (host: string, path = '/') =>
    new Promise<number>((resolve) => {
      const response = { status: (code: number) => ({ send: () => resolve(code) }) }
      requireKnownHost(proxied)({ headers: { host }, path } as never, response as never, () => resolve(200))
    })
  expect(await behind('films.example')).toBe(200)
  expect(await behind('127.0.0.1:4380')).toBe(421)
  expect(await behind('127.0.0.1:4380', '/health')).toBe(200)
  expect(await behind('other.example')).toBe(421)
})

test('off loopback everybody signs in; bad settings are named', () => {
  const base = { DATABASE_URL: 'postgres://x' }
  expect(readConfig({ ...base, FILLAGRANT_HOST: '0.0.0.0' })).toMatchObject({
    isLoopback: false,
    needsSignIn: true,
  })
  expect(() => readConfig({ ...base, FILLAGRANT_PORT: 'eighty' })).toThrow('FILLAGRANT_PORT cannot be used')
  expect(() => readConfig({ ...base, FILLAGRANT_PUBLIC_URL: 'ftp://x' })).toThrow(
    'FILLAGRANT_PUBLIC_URL cannot be used',
  )
  expect(() => readConfig({ FILLAGRANT_DATA: '/nowhere' })).toThrow('Run npm start first')
  expect(readConfig(base)).toMatchObject({
    host: '127.0.0.1',
    port: 4380,
    isLoopback: true,
    needsSignIn: false,
  })
})
