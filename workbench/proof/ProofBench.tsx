/** The Proof stage put together: snags and notes, plate against result, the worst places, measures over time. */
import { useCallback, useEffect, useMemo, useState } from 'react'
import type { Note } from '../../core/proof/notes'
import type { MendOfView, ProofStatus } from '../../core/proof/proofStatus'
import type { Snag } from '../../core/snags/snags'
import { useBenchParts } from '../BenchContext'
import { BenchProvider, type BenchProps } from '../BenchProvider'
import { comparisonHandlers, useHeldComparison } from '../compare/useHeldComparison'
import { usePanel, type PanelActions } from '../picture/usePanel'
import { StageFrame } from '../shell/StageFrame'
import { commonHandlers, useHeldPlate } from '../shell/commonHandlers'
import { HistoryButtons } from '../shell/HistoryButtons'
import { SavedState } from '../shell/SavedState'
import { PROOF_SHORTCUTS, type ProofShortcutId } from '../shell/shortcuts'
import { useShortcuts, type ShortcutHandlers } from '../shell/useShortcuts'
import { useCommands } from '../useCommands'
import { usePlayback } from '../usePlayback'
import { useAuthor } from './author'
import { ProofColumn } from './ProofColumn'
import { ProofContext, type NoteOrder, type ProofParts, type ProvedVersion } from './ProofContext'
import { ProofMarks } from './ProofMarks'
import { ProofStrip } from './ProofStrip'
import { useNotes, useProof } from './useProof'
import { WorstPlaces } from './WorstPlaces'

export interface ProofBenchProps extends BenchProps {
  readonly proof: ProofStatus
  readonly notes: readonly Note[]
  readonly version: ProvedVersion | null
  readonly provable: readonly ProvedVersion[]
  readonly ofViews: readonly MendOfView[]
}

export function ProofBench(props: ProofBenchProps) {
  return (
    <BenchProvider {...props} isFrozen={props.version !== null}>
      <Stage {...props} />
    </BenchProvider>
  )
}

function Stage(props: ProofBenchProps) {
  const { productionName, shot, shots, start, version } = props
  const sheet = useState(false)
  const panel = usePanel(start.scale)
  const parts = useProofState(props, panel.actions)
  usePlayback()
  useKeys(parts, panel.actions, () => sheet[1](true))
  useEffect(() => void useAuthor.persist.rehydrate(), [])
  return (
    <ProofContext value={parts}>
      <StageFrame
        productionName={productionName}
        shot={shot}
        shots={shots}
        stage="proof"
        panel={panel}
        sheet={sheet}
        bar={
          version === null && (
            <>
              <HistoryButtons />
              <SavedState />
            </>
          )
        }
        column={<ProofColumn />}
        Overlay={ProofMarks}
        compares
        tiles={<WorstPlaces />}
        strip={<ProofStrip />}
        shortcuts={PROOF_SHORTCUTS}
      />
    </ProofContext>
  )
}

function useProofState(
  { shot, proof, notes: known, version, provable, ofViews }: ProofBenchProps,
  panel: PanelActions,
): ProofParts {
  const { store, saving } = useBenchParts()
  const [mendId, filterBy] = useState<string | null>(null)
  const [selected, setSelected] = useState<Snag | null>(null)
  const [isWriting, setWriting] = useState(false)
  const [status, { measure, cancel }] = useProof(shot.id, version?.id ?? null, mendId, proof)
  const [notes, refetchNotes] = useNotes(shot.id, known)
  // What was decided stands with the versions: the page's own data is asked for again by the order itself.
  const { send } = useCommands<NoteOrder>(`/shots/${shot.id}/notes`, refetchNotes)
  const select = useCallback(
    (snag: Snag | null) => {
      setSelected(snag)
      if (!snag) return
      store.getState().goTo(snag.frame)
      panel.show(snag.x, snag.y)
    },
    [panel, store],
  )
  return {
    status,
    notes,
    version,
    provable,
    ofViews,
    mendId,
    filterBy,
    selected,
    select,
    // What was edited just now is to be measured too.
    measure: () => void saving.whenSaved().then(measure),
    cancel,
    order: send,
    isWriting,
    setWriting,
  }
}

function useKeys(parts: ProofParts, panel: PanelActions, openSheet: () => void): void {
  const { store } = useBenchParts()
  const comparison = useHeldComparison(store)
  const handlers = useMemo<ShortcutHandlers<ProofShortcutId>>(() => {
    const { snags } = parts.status
    const step = (by: number) => {
      const at = parts.selected ? snags.indexOf(parts.selected) : by > 0 ? -1 : snags.length
      const next = snags[at + by]
      if (next) parts.select(next)
    }
    return {
      ...commonHandlers(store, panel),
      ...comparisonHandlers(comparison),
      measure: parts.measure,
      snagBack: () => step(-1),
      snagOn: () => step(1),
      note: () => parts.setWriting(true),
      escape: () => {
        if (parts.isWriting) parts.setWriting(false)
        else parts.select(null)
      },
      help: openSheet,
    }
  }, [comparison, openSheet, panel, parts, store])
  useShortcuts(PROOF_SHORTCUTS, handlers)
  useHeldPlate(store)
}
