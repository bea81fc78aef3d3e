/** What is to be said of a mark that was taken off where there is doubt about it. */
import type { ByEdges } from '../mark/tellByEdges'
import { isOpaque, type TakenMark } from './markTaken'
import { UNSURE_BELOW } from './tracks'

/** How a mark came to be known. */
export interface MarkTold {
  /** The least of all frames, 0 to 1: how well its picture explains what it changes there. */
  readonly minSure: number
  /** Of what is under it, how much other frames showed, 0 to 1. */
  readonly seenShare: number
  /** How much of it nothing moves under, so that its own edges told it; null where frames tell all. */
  readonly byEdges: ByEdges | null
}

export type MarkDoubt = 'opaque' | 'place' | 'edges' | 'ground'

/** So little of its ground seen, a mark is hardly told. */
const HARDLY_SEEN = 0.2
/** So much of a mark told by its edges is to be looked at. */
const MANY_BY_EDGES = 0.1

/** The gravest first; null: there is none. */
export function doubtAbout(mark: Pick<TakenMark, 'denseShare'>, told: MarkTold): MarkDoubt | null {
  if (isOpaque(mark)) return 'opaque'
  if (told.minSure < UNSURE_BELOW) return 'place'
  if (told.byEdges && told.byEdges.share >= MANY_BY_EDGES) return 'edges'
  return told.seenShare < HARDLY_SEEN ? 'ground' : null
}

/** The doubt in words. */
export function wordsOfDoubt(doubt: MarkDoubt, { seenShare, byEdges }: MarkTold): string {
  switch (doubt) {
    case 'opaque':
      return 'The mark hides what is under it: there is nothing to undo. It keeps its fill.'
    case 'place':
      return 'Not sure where the mark lies on all frames. Place it on one where it is off, and take it off again.'
    case 'edges':
      return `Nothing moves under ${percent(byEdges!.share)} of the mark: there its own edges told it${sureWords(byEdges!.opacityDeviation)}. Look at the result closely.`
    case 'ground':
      return `Other frames show only ${percent(seenShare)} of what is under the mark. Look at the result closely.`
  }
}

const sureWords = (deviation: number | null): string =>
  deviation === null ? ', and how sure cannot be said' : `, its opacity to ± ${percent(2 * deviation)}`

const percent = (share: number): string => `${Math.max(share > 0 ? 1 : 0, Math.round(100 * share))} %`
