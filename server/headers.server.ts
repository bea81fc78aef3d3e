/** What browsers are told about our pages: where things may come from, what pages may not use. */
import { randomBytes } from 'node:crypto'
import type { RequestHandler } from 'express'
import helmet from 'helmet'
import { addressOf } from './guard'

/**
 * For the renderer of pages, within this process only: what arrives under these names from outside is thrown away. They
 * are headers, as the built pages are loaded beside us and share no objects with us.
 */
export const NONCE_HEADER = 'x-fillagrant-nonce'
export const ACCOUNT_HEADER = 'x-fillagrant-account'
/** Where it comes from, as far as limits go. */
export const ADDRESS_HEADER = 'x-fillagrant-address'

/** What a page never needs, from the list of the Permissions Policy specification (W3C). */
const UNUSED = ['accelerometer', 'camera', 'display-capture', 'geolocation', 'gyroscope', 'magnetometer', 'microphone', 'midi', 'payment', 'publickey-credentials-get', 'usb', 'screen-wake-lock', 'xr-spatial-tracking'] // prettier-ignore

/** Sets what the renderer is told, and throws away what others say under these names; in development too. */
export const innerHeaders: RequestHandler = (request, response, next) => {
  const nonce = randomBytes(18).toString('base64')
  request.headers[NONCE_HEADER] = nonce
  delete request.headers[ACCOUNT_HEADER]
  request.headers[ADDRESS_HEADER] = addressOf(request)
  response.locals['nonce'] = nonce
  next()
}

/** Shared memory between page and workers needs both, in development too. */
export const isolationHeaders: RequestHandler = (_request, response, next) => {
  response.set({
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Cross-Origin-Embedder-Policy': 'require-corp',
  })
  next()
}

export const policyHeaders: RequestHandler[] = [
  (_request, response, next) => {
    response.set('Permissions-Policy', UNUSED.map((feature) => `${feature}=()`).join(', '))
    next()
  },
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        // Kernels are compiled in the page.
        scriptSrc: [(_request, response) => `'nonce-${nonceOf(response)}'`, "'self'", "'wasm-unsafe-eval'"],
        styleSrc: [(_request, response) => `'nonce-${nonceOf(response)}'`, "'self'"],
        // Places in the strip and the picture are attributes of elements that the server has written; they run nothing.
        styleSrcAttr: ["'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        workerSrc: ["'self'"],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        formAction: ["'self'"],
        frameAncestors: ["'none'"],
      },
    },
    // Set for development too.
    crossOriginOpenerPolicy: false,
    crossOriginEmbedderPolicy: false,
    crossOriginResourcePolicy: { policy: 'same-origin' },
    referrerPolicy: { policy: 'same-origin' },
    xFrameOptions: { action: 'deny' },
  }),
]

const nonceOf = (response: object): string => (response as { locals: { nonce: string } }).locals.nonce

/** A report is one file that also lies on people's disks: its style is within it, and nothing in it runs. */
export const reportHeaders: RequestHandler = (_request, response, next) => {
  response.set('Content-Security-Policy', "default-src 'none'; img-src data:; style-src 'unsafe-inline'; frame-ancestors 'none'; base-uri 'none'; form-action 'none'") // prettier-ignore
  next()
}
