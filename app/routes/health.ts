import { answers } from '../../server/db/client.server'
import { serverContext } from '../../server/context.server'

/** 200 once the database answers too, 503 while it does not. Asked by whoever watches over the parts; tells nothing else. */
export async function loader() {
  const ok = await answers(serverContext().database)
  return Response.json({ ok }, { status: ok ? 200 : 503 })
}
