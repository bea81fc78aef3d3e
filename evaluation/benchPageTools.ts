/** What benches of the running application share. */
import { randomUUID } from 'node:crypto'
import type { MendEdit } from '../core/document/edits'
import type { Mend } from '../core/document/mend'
import type { Track } from '../core/document/tracks'

/** Stores mends in a shot as one step. */
export async function storeMends(
  url: string,
  shotId: string,
  mends: readonly Mend[],
  tracks: readonly Track[],
  baseRevision = 0,
): Promise<void> {
  const edit: MendEdit = {
    label: 'bench',
    changes: mends.map((mend, i) => ({ id: mend.id, before: null, after: { ...mend, stackIndex: i + 1 } })),
    tracks: tracks.map((track) => ({ id: track.id, before: null, after: track })),
  }
  const response = await fetch(`${url}/shots/${shotId}/edits`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json', Origin: url },
    body: JSON.stringify({ editId: randomUUID(), baseRevision, role: 'do', targetId: null, edit }),
  })
  if (!response.ok) throw new Error(`the mends could not be stored: ${await response.text()}`)
}

/** Waits until the scene of a shot is known, with what its mends cover left out. */
export async function sceneKnown(url: string, shotId: string): Promise<void> {
  for (let tried = 0; tried < 600; tried++) {
    const { state } = (await (await fetch(`${url}/shots/${shotId}/scene`)).json()) as { state: string }
    if (state === 'done') return
    await new Promise((resolve) => setTimeout(resolve, 500))
  }
  throw new Error(`the scene of ${shotId} does not come`)
}
