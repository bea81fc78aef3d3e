/** Who may do what. Each role may also do what those before it may. */
import type { Role } from '../db/schema'

export const ROLE_WORDS: Readonly<Record<Role, { readonly title: string; readonly help: string }>> = {
  look: { title: 'Look', help: 'sees everything, writes notes' },
  mend: { title: 'Mend', help: 'brings footage in, mends, makes versions' },
  approve: { title: 'Approve', help: 'signs versions off or sends them back' },
  run: { title: 'Run', help: 'people, productions, what is deleted for good' },
}
const ORDER: readonly Role[] = ['look', 'mend', 'approve', 'run']

export const mayAs = (role: Role, needed: Role): boolean => ORDER.indexOf(role) >= ORDER.indexOf(needed)

/**
 * What a request needs, from its address: looking for what only reads, mending for what writes, more where it is said
 * here. What an order is worth beyond that is looked at where it is read.
 */
export function roleFor(method: string, path: string): Role {
  const bare = path.replace(/\.data$/, '')
  if (/^\/people\b/.test(bare)) return 'run'
  if (method === 'GET' || method === 'HEAD') return 'look'
  if (/^\/(account|sign-out)\b/.test(bare) || /^\/shots\/[^/]+\/notes$/.test(bare)) return 'look'
  // Rectangles are asked for by their list, in a body.
  if (/^\/plates\/[^/]+\/rects$/.test(bare)) return 'look'
  return 'mend'
}
