/** The Survey stage put together: finds to accept or dismiss, the plate with them marked, looking aids, their frames. */
import { useCallback, useMemo, useState } from 'react'
import { Download } from 'lucide-react'
import { toast } from 'sonner'
import { v4 as newId } from 'uuid'
import { acceptedIds, acceptFinds } from '../../core/document/acceptFinds'
import type { SurveyStatus } from '../../core/jobs/survey'
import { PLAIN_VIEW } from '../../core/view/viewTransform'
import { useBench, useBenchParts } from '../BenchContext'
import { BenchProvider, type BenchProps } from '../BenchProvider'
import { usePanel, type PanelActions } from '../picture/usePanel'
import { commonHandlers, useHeldPlate } from '../shell/commonHandlers'
import { HistoryButtons } from '../shell/HistoryButtons'
import { HistoryList } from '../shell/HistoryList'
import { SavedState } from '../shell/SavedState'
import { takeMarks } from '../tracking/takeMark'
import { SURVEY_SHORTCUTS, type SurveyShortcutId } from '../shell/shortcuts'
import { StageFrame } from '../shell/StageFrame'
import { useShortcuts, type ShortcutHandlers } from '../shell/useShortcuts'
import { usePlayback } from '../usePlayback'
import { AidTiles } from './AidTiles'
import { FindMarks } from './FindMarks'
import { FindsColumn } from './FindsColumn'
import { SURE_FROM } from './findWords'
import { sureFinds, SurveyContext, type SurveyedFind, type SurveyParts } from './SurveyContext'
import { SensorMapMenu } from './SensorMapMenu'
import { SurveyStrip } from './SurveyStrip'
import { useSurvey } from './useSurvey'

export interface SurveyBenchProps extends BenchProps {
  readonly survey: SurveyStatus
}

export function SurveyBench(props: SurveyBenchProps) {
  return (
    <BenchProvider {...props}>
      <Stage {...props} />
    </BenchProvider>
  )
}

function Stage({ productionName, shot, shots, start, survey }: SurveyBenchProps) {
  const sheet = useState(false)
  const panel = usePanel(start.scale)
  const parts = useSurveyState(shot.id, survey, panel.actions)
  usePlayback()
  useKeys(parts, panel.actions, () => sheet[1](true))
  return (
    <SurveyContext value={parts}>
      <StageFrame
        productionName={productionName}
        shot={shot}
        shots={shots}
        stage="survey"
        panel={panel}
        sheet={sheet}
        bar={
          <>
            <SensorMapMenu />
            <HistoryButtons />
            <HistoryList />
            <SavedState />
            <a
              href={parts.status.about ? `/shots/${shot.id}/finds.json` : undefined}
              aria-disabled={!parts.status.about}
              download
              className="rounded-sm bg-raised p-1.5 hover:bg-lifted aria-disabled:opacity-40"
              aria-label="Export finds.json"
              title={parts.status.about ? 'Export finds.json' : 'Scan first'}
            >
              <Download aria-hidden className="size-4" />
            </a>
          </>
        }
        column={<FindsColumn />}
        Overlay={FindMarks}
        tiles={<AidTiles />}
        strip={<SurveyStrip />}
        shortcuts={SURVEY_SHORTCUTS}
      />
    </SurveyContext>
  )
}

function useSurveyState(shotId: string, start: SurveyStatus, panel: PanelActions): SurveyParts {
  const bench = useBenchParts()
  const { store, clipPictures } = bench
  const { load } = clipPictures
  const [status, actions] = useSurvey(shotId, start, load)
  const records = useBench((bench) => bench.records)
  const [selectedId, setSelectedId] = useState<string | null>(null)
  const [shownIds, setShownIds] = useState<readonly string[]>([])
  const [sureFrom, setSureFrom] = useState(SURE_FROM)
  const finds = useMemo<SurveyedFind[]>(() => {
    const accepted = acceptedIds(records)
    return status.finds.map(({ find, isDismissed }, i) => ({
      find,
      number: i + 1,
      state: accepted.has(find.id) ? 'accepted' : isDismissed ? 'dismissed' : 'open',
    }))
  }, [records, status.finds])
  const select = useCallback(
    (id: string | null) => {
      setSelectedId(id)
      const found = finds.find(({ find }) => find.id === id)?.find
      if (!found) return
      panel.show(found.x, found.y)
      const { frame, goTo } = store.getState()
      if (frame < found.firstFrame || frame > found.lastFrame) goTo(found.firstFrame)
    },
    [finds, panel, store],
  )
  const accept = useCallback(
    (ids: readonly string[]) => {
      const { records: now, plate, commit } = store.getState()
      const chosen = finds.filter(({ find }) => ids.includes(find.id))
      const edit = acceptFinds(
        now,
        chosen.map(({ find }) => find),
        plate,
        newId,
      )
      if (!edit) return
      commit(edit)
      const back = chosen.filter(({ state }) => state === 'dismissed').map(({ find }) => find.id)
      actions.dismiss(back, false)
      toast.success(`Accepted: ${edit.changes.map(({ after }) => after!.name).join(', ')}.`, {
        description: 'Undo takes it back.',
      })
      // What a mark lets through stays: its picture is worked out at once, where the scene's motion is known.
      const marks = edit.changes.filter(({ before, after }) => !before && after?.kind === 'mark')
      if (bench.scene.scene)
        void takeMarks(
          bench,
          marks.map(({ id }) => id),
        )
    },
    [actions, bench, finds, store],
  )
  return useMemo(
    () => ({
      status,
      actions,
      finds,
      selectedId,
      select,
      shownIds,
      setShownIds,
      accept,
      toggleDismissed(id) {
        const one = finds.find(({ find }) => find.id === id)
        if (one && one.state !== 'accepted') actions.dismiss([id], one.state === 'open')
      },
      sureFrom,
      setSureFrom,
      acceptSure: () => accept(sureFinds({ finds, sureFrom }).map(({ find }) => find.id)),
    }),
    [accept, actions, finds, select, selectedId, shownIds, status, sureFrom],
  )
}

/** Enlarged so far a bad pixel can be told from its neighbours. */
const CLOSE_SCALE = 8

function useKeys(parts: SurveyParts, panel: PanelActions, openSheet: () => void): void {
  const { store } = useBenchParts()
  const handlers = useMemo<ShortcutHandlers<SurveyShortcutId>>(() => {
    const { shownIds, selectedId, finds, select } = parts
    const step = (by: 1 | -1) => {
      if (shownIds.length === 0) return
      const at = selectedId === null ? -1 : shownIds.indexOf(selectedId)
      select(
        shownIds[
          at < 0 ? (by > 0 ? 0 : shownIds.length - 1) : Math.min(Math.max(at + by, 0), shownIds.length - 1)
        ]!,
      )
    }
    /** What is done with the selected one leads to the next. */
    const withSelected = (act: (id: string) => void) => {
      if (selectedId === null) return
      act(selectedId)
      step(1)
    }
    return {
      ...commonHandlers(store, panel),
      scan: parts.actions.scan,
      findBack: () => step(-1),
      findOn: () => step(1),
      accept: () => withSelected((id) => parts.accept([id])),
      acceptSure: parts.acceptSure,
      dismiss: () => withSelected(parts.toggleDismissed),
      close: () => {
        const found = finds.find(({ find }) => find.id === selectedId)?.find
        if (found) panel.show(found.x, found.y, found.kind === 'pixel' ? CLOSE_SCALE : 2)
      },
      escape: () => {
        select(null)
        store.getState().setViewTransform(PLAIN_VIEW)
      },
      help: openSheet,
    }
  }, [openSheet, panel, parts, store])
  useShortcuts(SURVEY_SHORTCUTS, handlers)
  useHeldPlate(store)
}
