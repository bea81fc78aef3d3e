import { newsStream } from '../../server/newsStream.server'
import type { Route } from './+types/events'

/** Server-sent events: what changed anywhere, so that open pages can look again. */
export function loader({ request }: Route.LoaderArgs) {
  return new Response(newsStream(request.signal), {
    headers: { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' },
  })
}
