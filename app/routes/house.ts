import { requireRole } from '../../server/access/whoAsks.server'
import { serverContext } from '../../server/context.server'
import { keepHouse } from '../../server/house/house.server'
import { houseOrderSchema } from '../../core/jobs/houseOrders'
import { log } from '../../server/log.server'
import { readCommand } from '../../server/requestBody.server'
import type { Route } from './+types/house'

/** What takes things from everybody. */
const NEEDS_RUN = /production|empty-bin/

/** One act of housekeeping; it is answered in words. */
export async function action({ request }: Route.ActionArgs) {
  const order = houseOrderSchema.safeParse(await readCommand(request))
  if (!order.success)
    return Response.json({ ok: false, message: `${order.error.issues[0]?.message ?? 'This cannot be read.'} Nothing was changed.` }, { status: 400 }) // prettier-ignore
  const by = requireRole(request, NEEDS_RUN.test(order.data.intent) ? 'run' : 'mend')
  const answer = await keepHouse(serverContext(), order.data)
  log.info({ by: by?.name, order: order.data, ok: answer.ok }, 'housekeeping')
  return Response.json(answer, { status: answer.ok ? 200 : 409 })
}
