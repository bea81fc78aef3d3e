import { z } from 'zod'
import { newNoteSchema, resolveNoteSchema } from '../../core/proof/notes'
import { requireRole, whoAsks } from '../../server/access/whoAsks.server'
import { serverContext } from '../../server/context.server'
import { readCommand } from '../../server/requestBody.server'
import { addNote, listNotes, resolveNote, review, reviewSchema } from '../../server/notes.server'
import type { Route } from './+types/notes'

const orderSchema = z.discriminatedUnion('intent', [newNoteSchema, resolveNoteSchema, reviewSchema])

export async function loader({ params }: Route.LoaderArgs) {
  return Response.json(await listNotes(serverContext().database.db, params.shotId))
}

/** Writes a note, answers one, resolves one, or decides of a version. */
export async function action({ params, request }: Route.ActionArgs) {
  const { db } = serverContext().database
  const order = orderSchema.safeParse(await readCommand(request))
  const account = order.data?.intent === 'review' ? requireRole(request, 'approve') : whoAsks(request)
  if (!order.success)
    return {
      ok: false,
      message: order.error.issues[0]?.message ?? 'This cannot be read. Nothing has changed.',
    }
  // Whoever is signed in writes under no other name.
  const author = account ? { author: account.name } : {}
  switch (order.data.intent) {
    case 'note':
      return addNote(db, params.shotId, { ...order.data, ...author })
    case 'resolve':
      return resolveNote(db, params.shotId, order.data)
    case 'review':
      return review(db, params.shotId, { ...order.data, ...author })
  }
}
