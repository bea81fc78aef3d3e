/** News as a stream of server-sent events (WHATWG HTML, section 9.2), for as long as somebody listens. */
import { subscribe } from './events.server'

const KEEP_ALIVE_MS = 15_000

/** @param signal  Of the request. Its reader may also go away without it being told: the stream is then cancelled. Either ends it, once. */
export function newsStream(
  signal: AbortSignal,
  listen: typeof subscribe = subscribe,
): ReadableStream<Uint8Array> {
  const encoder = new TextEncoder()
  let end = (): void => undefined
  return new ReadableStream<Uint8Array>({
    start(controller) {
      let isEnded = false
      const send = (text: string) => {
        if (!isEnded) controller.enqueue(encoder.encode(text))
      }
      send(': hello\n\n')
      const stop = listen({
        onNews: (news) => send(`event: ${news.kind}\ndata: ${JSON.stringify(news)}\n\n`),
        onDatabase: (isThere) => send(`event: database\ndata: ${isThere ? 'there' : 'gone'}\n\n`),
      })
      const timer = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS)
      const close = () => {
        if (isEnded) return
        end()
        controller.close()
      }
      end = () => {
        isEnded = true
        stop()
        clearInterval(timer)
        signal.removeEventListener('abort', close)
      }
      signal.addEventListener('abort', close)
      if (signal.aborted) close()
    },
    cancel() {
      end()
    },
  })
}
