import { z } from 'zod'
import { describeIssues } from '../../core/document/document'
import { editSchema } from '../../core/document/edits'
import { editRoleSchema } from '../../core/document/history'
import { serverContext } from '../../server/context.server'
import { saveEdit } from '../../server/saveEdit.server'
import type { Route } from './+types/edits'

const bodySchema = z.strictObject({
  editId: z.uuid(),
  baseRevision: z.int().min(0),
  role: editRoleSchema,
  targetId: z.uuid().nullable().default(null),
  edit: editSchema,
})

const MAX_BODY_BYTES = 8 * 2 ** 20

/** Stores one edit. 409 with the newer ones when others were faster; nothing is stored then. */
export async function action({ request, params }: Route.ActionArgs) {
  const text = await request.text()
  if (text.length > MAX_BODY_BYTES)
    return Response.json({ message: 'This edit is too large.' }, { status: 413 })
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    return Response.json({ message: 'This is not JSON.' }, { status: 400 })
  }
  const body = bodySchema.safeParse(json)
  if (!body.success)
    return Response.json(
      { message: `This edit cannot be stored: ${describeIssues(body.error)}` },
      { status: 400 },
    )
  const result = await saveEdit(serverContext().database.db, params.shotId, body.data)
  if (result.ok) return Response.json(result)
  if (result.reason === 'no-shot') return Response.json({ message: 'This shot is gone.' }, { status: 404 })
  if (result.reason === 'mismatch')
    return Response.json({ message: 'This edit does not fit what is stored.' }, { status: 422 })
  return Response.json(result, { status: 409 })
}
