/** A track in the hand: follow on, one frame or all, either way; what it looks at; smooth, hold still, delete. */
import { Dialog } from 'radix-ui'
import { ChevronFirst, ChevronLast, ChevronLeft, ChevronRight, ChevronsLeftRight } from 'lucide-react'
import { removeTrack, setTrack } from '../../core/document/trackCommands'
import type { KeyedArea } from '../../core/document/areas'
import { trackSettingsSchema } from '../../core/motion/settings'
import type { MendRecord } from '../../core/document/mend'
import type { Track } from '../../core/document/tracks'
import { useBench, useBenchParts } from '../BenchContext'
import { FollowingNow } from '../progress/FollowingNow'
import { NumberField } from '../fields/NumberField'
import { SchemaForm } from '../fields/SchemaForm'
import type { FollowOptions } from '../tracking/followAll'
import { useTracking } from '../tracking/useTracking'
import { drawTool } from '../tools/tool'
import { SMALL_BUTTON } from './buttonStyles'
import { sureWords } from './summaries'

const RUNS: readonly (readonly [string, FollowOptions, typeof ChevronLeft])[] = [
  ['Follow back to the start', { directions: ['backward'] }, ChevronFirst],
  ['Follow back one frame', { directions: ['backward'], most: 1 }, ChevronLeft],
  ['Follow both ways', { directions: ['forward', 'backward'] }, ChevronsLeftRight],
  ['Follow on one frame', { directions: ['forward'], most: 1 }, ChevronRight],
  ['Follow on to the end', { directions: ['forward'] }, ChevronLast],
]

const CLING_FIELDS = trackSettingsSchema.pick({ searchPx: true, bridgeFrames: true })
const POINT_FIELDS = trackSettingsSchema.omit({ model: true })
const PLANE_FIELDS = trackSettingsSchema.omit({ patchPx: true, reference: true })

export function TrackPanel({ track, mend, area }: { track: Track; mend: MendRecord; area: KeyedArea }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const following = useBench((bench) => bench.following)
  const stabilisedTrackId = useBench((bench) => bench.stabilisedTrackId)
  const isViewShown = useBench((bench) => bench.isTrackerViewShown)
  const { followTrack, cling, followThing } = useTracking()
  const { commit, stabilise, showTrackerView, setTool, preview, endGesture } = store.getState()
  const run = (options: FollowOptions) =>
    void (track.kind === 'cling'
      ? cling(mend.id, area.id, options)
      : followTrack(store.getState().tracks.get(track.id)!, options))
  const button = 'rounded-sm bg-well p-1.5 hover:bg-lifted disabled:opacity-40'
  const isStepKeys = stabilisedTrackId === track.id
  return (
    <section aria-label={`Track ${track.name}`} className="mb-1 rounded-sm border border-line p-2">
      <p className="flex items-baseline justify-between gap-2">
        <span className="min-w-0 truncate font-semibold">{track.name}</span>
        <span className="shrink-0 font-mono text-soft" data-testid="sure">
          {sureWords(track, frame)}
        </span>
      </p>
      {following && <p className="mt-1.5 text-soft">{following.words}</p>}
      <div className="my-1.5 flex items-center gap-1">
        {following ? (
          <FollowingNow />
        ) : track.kind === 'face' ? (
          <span className="text-soft">To find it again: Find faces, in a mend of skin.</span>
        ) : track.kind === 'thing' ? (
          <button
            type="button"
            className={SMALL_BUTTON}
            title="With all outlines as they are set now"
            onClick={() => followThing(mend, area)}
          >
            Follow again
          </button>
        ) : (
          RUNS.map(([words, options, Icon]) => (
            <button
              key={words}
              type="button"
              className={button}
              aria-label={words}
              title={words}
              onClick={() => run(options)}
            >
              <Icon aria-hidden className="size-4" />
            </button>
          ))
        )}
      </div>
      <div className="flex flex-wrap gap-1.5">
        <button
          type="button"
          className={SMALL_BUTTON}
          aria-pressed={isStepKeys}
          title="K: the view rides on the track"
          onClick={() => stabilise(isStepKeys ? null : track.id)}
        >
          {isStepKeys ? 'Let the view go' : 'Hold still'}
        </button>
        {track.kind === 'spread' && (
          <button
            type="button"
            className={SMALL_BUTTON}
            onClick={() => setTool(drawTool('outline', { for: 'lasso', trackId: track.id }))}
          >
            Delete points…
          </button>
        )}
        {track.kind !== 'thing' && track.kind !== 'face' && (
          <Dialog.Root modal={false} onOpenChange={(isOpen) => isOpen || showTrackerView(false)}>
            <Dialog.Trigger className={SMALL_BUTTON}>Settings…</Dialog.Trigger>
            <Dialog.Portal>
              <Dialog.Content
                aria-describedby={undefined}
                onInteractOutside={(event) => event.preventDefault()}
                className="fixed top-24 left-84 z-20 w-80 rounded-sm border border-line bg-panel p-3 shadow-2xl"
              >
                <Dialog.Title className="mb-1 font-semibold">Settings of {track.name}</Dialog.Title>
                <SchemaForm
                  schema={
                    track.kind === 'cling'
                      ? CLING_FIELDS
                      : track.kind === 'planar'
                        ? PLANE_FIELDS
                        : track.kind === 'spread'
                          ? trackSettingsSchema
                          : POINT_FIELDS
                  }
                  values={track.settings}
                  onChange={(name, value, title) => {
                    const now = store.getState().tracks.get(track.id)!
                    preview(
                      setTrack(
                        now,
                        { ...now, settings: { ...now.settings, [name]: value } },
                        `${title} of ${now.name}`,
                      ),
                    )
                  }}
                  onEnd={endGesture}
                />
                {track.kind !== 'cling' && (
                  <label className="flex items-center gap-1.5 py-1">
                    <input
                      type="checkbox"
                      className="accent-thread"
                      checked={isViewShown}
                      onChange={(event) => showTrackerView(event.target.checked)}
                    />
                    Show the picture as the tracker sees it
                  </label>
                )}
                <p className="text-soft">
                  For what is followed from now on. The picture itself is never changed.
                </p>
                <Dialog.Close className={`mt-2 ${SMALL_BUTTON}`}>Close</Dialog.Close>
              </Dialog.Content>
            </Dialog.Portal>
          </Dialog.Root>
        )}
        <button
          type="button"
          className={SMALL_BUTTON}
          onClick={() => commit(removeTrack(store.getState(), track, frame))}
        >
          Delete track
        </button>
      </div>
      <NumberField
        title="Smooth"
        unit="frames"
        help="Draws the track to the course of its neighbours in time; what was followed is kept."
        value={track.smoothFrames}
        min={0}
        max={12}
        step={1}
        onChange={(value) => {
          const now = store.getState().tracks.get(track.id)!
          preview(setTrack(now, { ...now, smoothFrames: Math.round(value) }, `Smooth ${now.name}`))
        }}
        onEnd={endGesture}
      />
    </section>
  )
}
