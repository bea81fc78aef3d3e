import { z } from 'zod'
import { serverContext } from '../../server/context.server'
import { askForProof, cancelProof, loadProof } from '../../server/proofs.server'
import type { Route } from './+types/proofState'

const askedSchema = z.object({ version: z.uuid().nullable(), mend: z.string().max(64).nullable() })

const readAsked = (request: Request) => {
  const search = new URL(request.url).searchParams
  return askedSchema.safeParse({ version: search.get('version'), mend: search.get('mend') })
}

/** How far the proof of a version, or of the mends as they are, is, and what it came to. */
export async function loader({ params, request }: Route.LoaderArgs) {
  const asked = readAsked(request)
  if (!asked.success) return Response.json({ message: 'There is no such version.' }, { status: 400 })
  const { version, mend } = asked.data
  return Response.json(await loadProof(serverContext().database.db, params.shotId, version, mend))
}

/** POST has it measured, DELETE calls that off. */
export async function action({ params, request }: Route.ActionArgs) {
  const { db } = serverContext().database
  const asked = readAsked(request)
  if (!asked.success) return Response.json({ message: 'There is no such version.' }, { status: 400 })
  const { version } = asked.data
  if (request.method === 'DELETE') await cancelProof(db, params.shotId, version)
  else if (!(await askForProof(db, params.shotId, version)))
    return Response.json({ message: 'There is no such shot, or the version is not done.' }, { status: 404 })
  return Response.json({ ok: true })
}
