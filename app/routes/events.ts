import { subscribe } from '../../server/events.server'
import type { Route } from './+types/events'

const KEEP_ALIVE_MS = 15_000

/** Server-sent events: what changed anywhere, so that open pages can look again. */
export function loader({ request }: Route.LoaderArgs) {
  const encoder = new TextEncoder()
  const body = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text))
      send(': hello\n\n')
      const stop = subscribe((news) => send(`event: ${news.kind}\ndata: ${JSON.stringify(news)}\n\n`))
      const timer = setInterval(() => send(': still here\n\n'), KEEP_ALIVE_MS)
      request.signal.addEventListener('abort', () => {
        stop()
        clearInterval(timer)
        controller.close()
      })
    },
  })
  return new Response(body, { headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' } })
}
