/** What every request passes before anything else looks at it: where it wants to, where it comes from, how long it is. */
import type { Request, RequestHandler } from 'express'
import { isLoopbackName, type Config } from './config.server'

/**
 * On loopback only a loopback name is answered, so that a foreign page cannot reach in by renaming us; behind a proxy,
 * only the name that people type.
 */
export function requireKnownHost({
  isLoopback,
  publicUrl,
}: Pick<Config, 'isLoopback' | 'publicUrl'>): RequestHandler {
  return (request, response, next) => {
    const { host = '' } = request.headers
    const name = host.replace(/:\d+$/, '').replace(/^\[(.*)\]$/, '$1')
    if (publicUrl && host === publicUrl.host) return next()
    // Whoever watches over us asks on loopback.
    if (isLoopback && isLoopbackName(name) && (!publicUrl || request.path === '/health')) return next()
    if (!isLoopback && !publicUrl) return next()
    response.status(421).send(publicUrl ? `This server answers to ${publicUrl.host} only.` : 'This server answers to 127.0.0.1 and localhost only.') // prettier-ignore
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

/** An address is text that can be stored and shown; nothing after this has to ask. */
export const requireCleanAddress: RequestHandler = (request, response, next) => {
  try {
    // eslint-disable-next-line no-control-regex
    if (request.originalUrl.length < 8192 && !/[\0-\x1f\x7f]/.test(decodeURIComponent(request.originalUrl)))
      return next()
  } catch {
    // no UTF-8: refused like the rest
  }
  response.status(400).send('This address cannot be read.')
}

const FORM_BYTES = 2 ** 20

/** Forms are read whole before anything looks at them: they say how long they are, and are short. */
export const requireShortForms: RequestHandler = (request, response, next) => {
  if (
    !/^(application\/x-www-form-urlencoded|multipart\/form-data)/i.test(request.headers['content-type'] ?? '')
  )
    return next()
  const length = Number(request.headers['content-length'] ?? NaN)
  if (length <= FORM_BYTES) return next()
  response.status(Number.isNaN(length) ? 411 : 413).send('This form is too long.')
}

/** Who asks, as far as limits go. The proxy before us is on this machine; from elsewhere nobody's word is taken for it. */
export const addressOf = (request: Request): string => {
  const direct = request.socket.remoteAddress ?? 'unknown'
  const forwarded = request.headers['x-forwarded-for']
  const last = (Array.isArray(forwarded) ? forwarded.at(-1) : forwarded)?.split(',').at(-1)?.trim()
  return isLoopbackName(direct.replace(/^::ffff:/, '')) && last ? last : direct
}
