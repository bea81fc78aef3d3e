/** Pages are written whole and at once, with the nonce that lets their own scripts run. */
import { createReadableStreamFromReadable } from '@react-router/node'
import { PassThrough } from 'node:stream'
import { renderToPipeableStream } from 'react-dom/server'
import { isRouteErrorResponse, ServerRouter, type EntryContext } from 'react-router'
import { NONCE_HEADER } from '../server/headers.server'
import { log } from '../server/log.server'
import { NonceContext } from './nonce'

const LATE_MS = 10_000

export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  entry: EntryContext,
): Promise<Response> {
  const nonce = request.headers.get(NONCE_HEADER) ?? undefined
  return new Promise((resolve, reject) => {
    const { pipe, abort } = renderToPipeableStream(
      <NonceContext value={nonce}>
        <ServerRouter context={entry} url={request.url} nonce={nonce} />
      </NonceContext>,
      {
        nonce,
        onAllReady() {
          const body = new PassThrough()
          headers.set('Content-Type', 'text/html; charset=utf-8')
          resolve(new Response(createReadableStreamFromReadable(body), { status, headers }))
          pipe(body)
        },
        onShellError: reject,
        onError(cause) {
          const isTheirs = isRouteErrorResponse(cause) && cause.status < 500
          if (!request.signal.aborted && !isTheirs)
            log.error({ err: cause, url: request.url }, 'a page could not be written')
        },
      },
    )
    setTimeout(abort, LATE_MS).unref()
  })
}

/** What goes wrong while a request is answered; whoever has gone away is not told. */
export function handleError(cause: unknown, { request }: { request: Request }): void {
  const isTheirs = isRouteErrorResponse(cause) && cause.status < 500
  if (!request.signal.aborted && !isTheirs)
    log.error({ err: cause, url: request.url, method: request.method }, 'a request failed')
}
