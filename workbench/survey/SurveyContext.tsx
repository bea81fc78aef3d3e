import { createContext, useContext } from 'react'
import type { Find } from '../../core/survey/finds'
import type { SurveyStatus } from '../../core/jobs/survey'
import type { SurveyActions } from './useSurvey'

export type FindState = 'open' | 'accepted' | 'dismissed'

export interface SurveyedFind {
  readonly find: Find
  readonly state: FindState
  /** Its number in the list and on the picture. */
  readonly number: number
}

/** What the parts of the Survey stage share. */
export interface SurveyParts {
  readonly status: SurveyStatus
  readonly actions: SurveyActions
  readonly finds: readonly SurveyedFind[]
  readonly selectedId: string | null
  /** Selects a find and brings the picture to it. */
  select(id: string | null): void
  /** In the order of the table, filtered as it is. */
  readonly shownIds: readonly string[]
  setShownIds(ids: readonly string[]): void
  accept(ids: readonly string[]): void
  /** Dismisses an open find, takes a dismissal back. */
  toggleDismissed(id: string): void
  /** Those at least this sure are accepted together. */
  readonly sureFrom: number
  setSureFrom(sure: number): void
  acceptSure(): void
}

export const SurveyContext = createContext<SurveyParts | null>(null)

export function useSurveyParts(): SurveyParts {
  const parts = useContext(SurveyContext)
  if (!parts) throw new Error('useSurveyParts needs a SurveyContext above it')
  return parts
}

/** Open finds that are sure enough to be accepted together. */
export const sureFinds = ({ finds, sureFrom }: Pick<SurveyParts, 'finds' | 'sureFrom'>): SurveyedFind[] =>
  finds.filter(({ find, state }) => state === 'open' && find.sure >= sureFrom)
