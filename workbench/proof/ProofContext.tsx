import { createContext, useContext } from 'react'
import type { Note, newNoteSchema, resolveNoteSchema } from '../../core/proof/notes'
import type { MendOfView, ProofStatus } from '../../core/proof/proofStatus'
import type { Review, ReviewState } from '../../core/proof/review'
import type { Snag } from '../../core/snags/snags'
import type { z } from 'zod'

/** A version as this stage knows it. */
export interface ProvedVersion {
  readonly id: string
  readonly number: number
  readonly formatTitle: string
  readonly isLossless: boolean
  readonly firstFrame: number
  readonly lastFrame: number
  readonly reviews: readonly Review[]
}

export type NoteOrder =
  | z.output<typeof newNoteSchema>
  | z.output<typeof resolveNoteSchema>
  | {
      readonly intent: 'review'
      readonly versionId: string
      readonly state: ReviewState
      readonly author: string
    }

/** What the parts of the Proof stage share. */
export interface ProofParts {
  readonly status: ProofStatus
  readonly notes: readonly Note[]
  /** Null: the mends as they are. */
  readonly version: ProvedVersion | null
  readonly provable: readonly ProvedVersion[]
  /** Of an all-round picture. */
  readonly ofViews: readonly MendOfView[]
  /** Only what this mend measures is shown; null: all. */
  readonly mendId: string | null
  filterBy(mendId: string | null): void
  readonly selected: Snag | null
  select(snag: Snag | null): void
  measure(): void
  cancel(): void
  order(order: NoteOrder): void
  readonly isWriting: boolean
  setWriting(isWriting: boolean): void
}

export const ProofContext = createContext<ProofParts | null>(null)

export function useProofParts(): ProofParts {
  const parts = useContext(ProofContext)
  if (!parts) throw new Error('useProofParts needs a ProofContext above it')
  return parts
}
