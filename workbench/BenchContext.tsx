import { createContext, useContext } from 'react'
import { useStore } from 'zustand'
import type { BenchStore } from './store/bench'
import type { SaveQueue } from './store/saveQueue'
import type { Bench } from './store/benchState'
import type { ClipPictures } from './viewing/clipPictures'
import type { Other } from './compare/useOtherSide'
import type { FrameCache } from './preview/frameCache'
import type { View } from './picture/view'
import type { SceneStatus } from '../core/jobs/scene'
import type { ComputePool } from '../workers/pool'
import type { PlateReference } from '../workers/protocol'

/** What every part of the bench shares. */
export interface BenchParts {
  readonly store: BenchStore
  readonly saving: SaveQueue
  /** Made in the browser; null while the server renders the page. */
  readonly cache: FrameCache | null
  /** What the result is compared with. */
  readonly other: Other
  /** The workers; null while the server renders the page. */
  readonly pool: ComputePool | null
  readonly plateReference: PlateReference
  readonly shotId: string
  /** What a version was made of is shown: nothing of it changes. */
  readonly isFrozen: boolean
  readonly scene: SceneStatus
  readonly clipPictures: ClipPictures
  readonly view: View
  setView(change: View | ((view: View) => View)): void
}

export const BenchContext = createContext<BenchParts | null>(null)

export function useBenchParts(): BenchParts {
  const parts = useContext(BenchContext)
  if (!parts) throw new Error('useBenchParts needs a BenchContext above it')
  return parts
}

/** Reads the bench; renders again when the selected part changes. */
export function useBench<T>(select: (bench: Bench) => T): T {
  return useStore(useBenchParts().store, select)
}
