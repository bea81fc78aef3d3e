import { z } from 'zod'
import { describeIssues } from '../../core/document/document'
import { editRoleSchema } from '../../core/document/history'
import { packedEditSchema } from '../../core/document/packedEdit'
import { serverContext } from '../../server/context.server'
import { isDiskFull } from '../../server/room.server'
import { readJson, refusal } from '../../server/requestBody.server'
import { saveEdit } from '../../server/saveEdit.server'
import type { Route } from './+types/edits'

/** As the database counts. */
const MAX_REVISION = 2 ** 31 - 1

const bodySchema = z.strictObject({
  editId: z.uuid(),
  baseRevision: z.int().min(0).max(MAX_REVISION),
  role: editRoleSchema,
  targetId: z.uuid().nullable().default(null),
  edit: packedEditSchema,
})

/** Stores one edit. 409 with the newer ones when others were faster; nothing is stored then. */
export async function action({ request, params }: Route.ActionArgs) {
  const body = bodySchema.safeParse(await readJson(request))
  if (!body.success)
    return Response.json(
      { message: `This edit cannot be stored: ${describeIssues(body.error)}` },
      { status: 400 },
    )
  const result = await saveEdit(serverContext().database.db, params.shotId, body.data).catch(
    (cause: unknown) => {
      if (isDiskFull(cause)) throw refusal(507, 'The disk is full. This edit is kept on the page and saved when there is room again: leave the page open.') // prettier-ignore
      throw cause
    },
  )
  if (result.ok) return Response.json(result)
  if (result.reason === 'no-shot') return Response.json({ message: 'This shot is gone.' }, { status: 404 })
  if (result.reason === 'mismatch')
    return Response.json({ message: 'This edit does not fit what is stored.' }, { status: 422 })
  return Response.json(result, { status: 409 })
}
