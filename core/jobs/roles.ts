/** What somebody may do who signs in. Each role may also do what those before it may. */
export const ROLES = ['look', 'mend', 'approve', 'run'] as const
export type Role = (typeof ROLES)[number]

export const ROLE_WORDS: Readonly<Record<Role, { readonly title: string; readonly help: string }>> = {
  look: { title: 'Look', help: 'sees everything, writes notes' },
  mend: { title: 'Mend', help: 'brings footage in, mends, makes versions' },
  approve: { title: 'Approve', help: 'signs versions off or sends them back' },
  run: { title: 'Run', help: 'people, productions, what is deleted for good' },
}

export const mayAs = (role: Role, needed: Role): boolean => ROLES.indexOf(role) >= ROLES.indexOf(needed)
