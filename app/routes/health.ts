import { sql } from 'drizzle-orm'
import { serverContext } from '../../server/context.server'

/** Answers once the database does. */
export async function loader() {
  await serverContext().database.db.execute(sql`select 1`)
  return Response.json({ ok: true })
}
