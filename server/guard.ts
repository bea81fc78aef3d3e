/** Who may ask: the checks that every request passes before anything else looks at it. */
import { timingSafeEqual, createHash } from 'node:crypto'
import type { RequestHandler } from 'express'
import type { Config } from './config.server'

const LOOPBACK_NAMES = new Set(['127.0.0.1', 'localhost', '[::1]'])

/** On loopback only a loopback name is answered, so that a foreign page cannot reach in by renaming us. */
export function requireKnownHost({ isLoopback }: Pick<Config, 'isLoopback'>): RequestHandler {
  return (request, response, next) => {
    const name = (request.headers.host ?? '').replace(/:\d+$/, '')
    if (isLoopback && !LOOPBACK_NAMES.has(name)) {
      response.status(421).send('This server answers to 127.0.0.1 and localhost only.')
      return
    }
    next()
  }
}

/** Requests that change something must come from our own pages. */
export const requireSameOrigin: RequestHandler = (request, response, next) => {
  if (request.method === 'GET' || request.method === 'HEAD') return next()
  const { origin, host } = request.headers
  const isSame = origin !== undefined && URL.canParse(origin) && new URL(origin).host === host
  if (!isSame) {
    response.status(403).send('This request did not come from a page of this server.')
    return
  }
  next()
}

/** Asks for the password where one is set. Any user name will do. */
export function requirePassword(password: string | undefined): RequestHandler {
  return (request, response, next) => {
    if (password === undefined) return next()
    const [scheme, encoded = ''] = (request.headers.authorization ?? '').split(' ')
    const given = Buffer.from(encoded, 'base64')
      .toString('utf8')
      .replace(/^[^:]*:/, '')
    if (scheme === 'Basic' && isEqual(given, password)) return next()
    response.status(401).set('WWW-Authenticate', 'Basic realm="Fillagrant"').send('A password is needed.')
  }
}

// Hashing first gives both the same length, so that the comparison takes the same time for any guess.
const isEqual = (a: string, b: string): boolean =>
  timingSafeEqual(createHash('sha256').update(a).digest(), createHash('sha256').update(b).digest())
