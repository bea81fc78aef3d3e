import { createServer, request, type Server } from 'node:http'
import express from 'express'
import type { AddressInfo } from 'node:net'
import { readConfig } from './config.server'
import { requireKnownHost, requirePassword, requireSameOrigin } from './guard'

let server: Server
let port: number
beforeAll(async () => {
  const app = express()
  app.use(
    requireKnownHost({ isLoopback: true }),
    requirePassword('secret'),
    requireSameOrigin,
    (_request, response) => void response.send('in'),
  )
  server = createServer(app).listen(0, '127.0.0.1')
  await new Promise((resolve) => server.once('listening', resolve))
  port = (server.address() as AddressInfo).port
})
afterAll(() => void server.close())

const password = { authorization: `Basic ${Buffer.from('anyone:secret').toString('base64')}` }

/** fetch forbids some of these headers, so the request is made by hand. */
function ask(method: string, headers: Record<string, string>): Promise<number> {
  return new Promise((resolve, reject) => {
    const sent = request(
      { host: '127.0.0.1', port, method, headers: { host: `127.0.0.1:${port}`, ...headers } },
      (response) => {
        response.resume()
        resolve(response.statusCode!)
      },
    )
    sent.on('error', reject).end()
  })
}

test('the password is needed, and only the right one opens', async () => {
  expect(await ask('GET', {})).toBe(401)
  expect(await ask('GET', { authorization: `Basic ${Buffer.from('anyone:wrong').toString('base64')}` })).toBe(
    401,
  )
  expect(await ask('GET', password)).toBe(200)
})

test('on loopback only loopback names are answered', async () => {
  expect(await ask('GET', { ...password, host: 'films.example:4380' })).toBe(421)
  expect(await ask('GET', { ...password, host: `localhost:${port}` })).toBe(200)
})

test('changes come from our own pages only', async () => {
  expect(await ask('POST', password)).toBe(403)
  expect(await ask('POST', { ...password, origin: 'http://films.example' })).toBe(403)
  expect(await ask('POST', { ...password, origin: 'null' })).toBe(403)
  expect(await ask('DELETE', { ...password, origin: `http://127.0.0.1:${port}` })).toBe(200)
})

test('off loopback a password is required, and bad settings are named', () => {
  const base = { DATABASE_URL: 'postgres://x' }
  expect(() => readConfig({ ...base, FILLAGRANT_HOST: '0.0.0.0' })).toThrow('set FILLAGRANT_PASSWORD too')
  expect(readConfig({ ...base, FILLAGRANT_HOST: '0.0.0.0', FILLAGRANT_PASSWORD: 'x' }).isLoopback).toBe(false)
  expect(() => readConfig({ ...base, FILLAGRANT_PORT: 'eighty' })).toThrow('FILLAGRANT_PORT cannot be used')
  expect(() => readConfig({ FILLAGRANT_DATA: '/nowhere' })).toThrow('Run npm start first')
  expect(readConfig(base)).toMatchObject({ host: '127.0.0.1', port: 4380, isLoopback: true })
})
