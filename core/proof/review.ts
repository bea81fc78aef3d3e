/** Where a version stands with those who look at it. */
export const REVIEW_STATES = {
  'in-work': 'In work',
  'to-look-at': 'To look at',
  approved: 'Approved',
  'sent-back': 'Sent back',
} as const
export type ReviewState = keyof typeof REVIEW_STATES
export const REVIEW_STATE_IDS = Object.keys(REVIEW_STATES) as [ReviewState, ...ReviewState[]]

export interface Review {
  readonly state: ReviewState
  readonly author: string
  /** ISO 8601. */
  readonly at: string
}
