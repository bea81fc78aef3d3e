/** The Mend stage put together: its keys, and the four regions of the bench. */
import { v4 as newId } from 'uuid'
import { isStroke } from '../core/document/areas'
import { brushSchema } from '../core/document/brush'
import { removeStrokes } from '../core/document/strokeCommands'
import { useMemo, useState } from 'react'
import { Download } from 'lucide-react'
import { duplicateMend, removeMend, setOn, together } from '../core/document/commands'
import type { Snag } from '../core/snags/snags'
import type { MendRecord } from '../core/document/mend'
import { useBench, useBenchParts } from './BenchContext'
import { BenchProvider, type BenchProps } from './BenchProvider'
import { OPEN_PALETTE_EVENT } from './column/NewMend'
import { RENAME_EVENT } from './column/MendCard'
import { FollowingNow } from './progress/FollowingNow'
import { WorkColumn } from './column/WorkColumn'
import { Loupes } from './loupes/Loupes'
import { SCENE_STABILISED } from './picture/stabilisedView'
import { Overlay } from './picture/Overlay'
import { usePanel, type PanelActions } from './picture/usePanel'
import { commonHandlers, useHeldPlate } from './shell/commonHandlers'
import { HistoryButtons } from './shell/HistoryButtons'
import { HistoryList } from './shell/HistoryList'
import { SavedState } from './shell/SavedState'
import { SHORTCUTS, type ShortcutId } from './shell/shortcuts'
import { StageFrame } from './shell/StageFrame'
import { TracksMenu } from './shell/TracksMenu'
import { useShortcuts, type ShortcutHandlers } from './shell/useShortcuts'
import { comparisonHandlers, useHeldComparison } from './compare/useHeldComparison'
import { chosenStrokes, selectedArea, selectedMend, selectedMends } from './store/benchState'
import { Strip } from './strip/Strip'
import { useSnags } from './strip/useSnags'
import { useSendToTool } from './tools/useSendToTool'
import { useSuggest } from './tracking/useSuggest'
import { useTracking } from './tracking/useTracking'
import { usePlayback } from './usePlayback'

export type { BenchProps }

/** A size of the brush is so many times the one before. */
const TIP_STEP = 1.2

export function MendBench(props: BenchProps) {
  return (
    <BenchProvider {...props}>
      <Regions {...props} />
    </BenchProvider>
  )
}

function Regions({ productionName, shot, shots, start }: BenchProps) {
  const sheet = useState(false)
  const panel = usePanel(start.scale)
  usePlayback()
  useSnags()
  useKeys(sheet[1], panel.actions)
  return (
    <StageFrame
      productionName={productionName}
      shot={shot}
      shots={shots}
      stage="mend"
      panel={panel}
      sheet={sheet}
      bar={
        <>
          <FollowingState />
          <TracksMenu />
          <HistoryButtons />
          <HistoryList />
          <SavedState />
          <a
            href={`/shots/${shot.id}/mends.json`}
            download
            className="rounded-sm bg-raised p-1.5 hover:bg-lifted"
            aria-label="Export mends.json"
            title="Export mends.json"
          >
            <Download aria-hidden className="size-4" />
          </a>
        </>
      }
      column={<WorkColumn />}
      Overlay={Overlay}
      compares
      tiles={<Loupes />}
      strip={<Strip />}
      shortcuts={SHORTCUTS}
      hasHandles
    />
  )
}

function useKeys(setSheetOpen: (isOpen: boolean) => void, panel: PanelActions): void {
  const { store } = useBenchParts()
  const sendToTool = useSendToTool()
  const tracking = useTracking()
  const suggesting = useSuggest()
  const comparison = useHeldComparison(store)
  const handlers = useMemo<ShortcutHandlers<ShortcutId>>(() => {
    const { goTo, commit, select } = store.getState()
    const now = () => store.getState()
    const withSelected = (act: (mend: MendRecord) => void) => {
      const mend = selectedMend(now())
      if (mend) act(mend)
    }
    const toPin = (choose: (frames: number[]) => number | undefined) =>
      withSelected(() => {
        const area = selectedArea(now())
        const target = area && area.shape !== 'matte' ? choose(area.keys.map((key) => key.frame)) : undefined
        if (target !== undefined) goTo(target)
      })
    const toSnag = (snag: Snag | undefined) => {
      if (!snag) return
      goTo(snag.frame)
      if (now().selectedId !== snag.mendId) select(snag.mendId)
    }
    const sizeTip = (by: number) => {
      const sizePx = Math.round(10 * now().brush.sizePx * by) / 10
      if (brushSchema.shape.sizePx.safeParse(sizePx).success) now().setBrush({ sizePx })
    }
    return {
      ...commonHandlers(store, panel),
      ...comparisonHandlers(comparison),
      newMend: () => window.dispatchEvent(new Event(OPEN_PALETTE_EVENT)),
      pinBack: () => toPin((frames) => frames.findLast((frame) => frame < now().frame)),
      pinOn: () => toPin((frames) => frames.find((frame) => frame > now().frame)),
      snagBack: () => toSnag(now().snags.findLast((snag) => snag.frame < now().frame)),
      snagOn: () => toSnag(now().snags.find((snag) => snag.frame > now().frame)),
      toggle: () =>
        withSelected((mend) =>
          commit(
            together(
              selectedMends(now()).map((one) => setOn(one, !mend.isOn)),
              `Turn several mends ${mend.isOn ? 'off' : 'on'}`,
            ),
          ),
        ),
      duplicate: () => withSelected((mend) => commit(duplicateMend(now().records, mend, newId()))),
      delete: () =>
        withSelected((mend) => {
          const strokes = new Set(chosenStrokes(mend, now()).map(({ id }) => id))
          const edit = now().alsoSelected.size === 0 && removeStrokes(mend, strokes)
          if (edit) commit(edit)
          else commit(together(selectedMends(now()).map(removeMend), 'Delete several mends'))
        }),
      cling: () =>
        withSelected((mend) => {
          const area = selectedArea(now())
          if (area?.shape === 'path' && !isStroke(area)) void tracking.cling(mend.id, area.id)
        }),
      suggest: () =>
        withSelected((mend) => {
          const area = selectedArea(now())
          if (area) suggesting.next(mend.id, area.id)
        }),
      // Without a track the whole background is held.
      hold: () =>
        now().stabilise(now().stabilisedTrackId === null ? (now().trackId ?? SCENE_STABILISED) : null),
      finish: () => sendToTool({ kind: 'finish' }),
      tipSmaller: () => sizeTip(1 / TIP_STEP),
      tipLarger: () => sizeTip(TIP_STEP),
      rename: () =>
        withSelected((mend) => window.dispatchEvent(new CustomEvent(RENAME_EVENT, { detail: mend.id }))),
      escape: () => {
        if (now().tool.kind !== 'idle') sendToTool({ kind: 'escape' })
        else if (now().following) now().following?.stop()
        else if (now().gesture) now().cancelGesture()
        else select(null)
      },
      help: () => setSheetOpen(true),
    }
  }, [comparison, panel, sendToTool, setSheetOpen, store, suggesting, tracking])
  useShortcuts(SHORTCUTS, handlers)
  useHeldPlate(store)
}

/** What is being followed, when its card is not open to show it. */
function FollowingState() {
  const isFollowing = useBench((bench) => bench.following !== null)
  return isFollowing ? (
    <span className="w-60 shrink-0">
      <FollowingNow />
    </span>
  ) : null
}
