/** Edits that could never be stored, kept in this browser with all that is new in them, so that nothing that was made is lost. */
import { z } from 'zod'
import type { PackedEdit } from '../../core/document/packedEdit'

const keyOf = (shotId: string): string => `fillagrant-set-aside-${shotId}`

const heldSchema = z.array(z.object({ message: z.string(), at: z.string(), edits: z.array(z.unknown()) }))
export type SetAside = z.output<typeof heldSchema>

/** What is set aside of a shot, the oldest first. */
export function heldAside(shotId: string): SetAside {
  const held = heldSchema.safeParse(JSON.parse(localStorage.getItem(keyOf(shotId)) ?? '[]'))
  return held.success ? held.data : []
}

export function setAside(shotId: string, edits: readonly PackedEdit[], message: string): void {
  const held = [...heldAside(shotId), { message, at: new Date().toISOString(), edits: [...edits] }]
  localStorage.setItem(keyOf(shotId), JSON.stringify(held))
}

export function forgetAside(shotId: string): void {
  localStorage.removeItem(keyOf(shotId))
}
