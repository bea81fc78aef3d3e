/** The Motion part: still, keyed, or following; and the track that is followed. */
import { DropdownMenu } from 'radix-ui'
import { removeKeys, setFollow, setInterpolation } from '../../core/document/areaCommands'
import { isStroke, type KeyedArea } from '../../core/document/areas'
import { ALL_PARTS, type Follow } from '../../core/document/basics'
import { hasKeyAt } from '../../core/document/keys'
import { isOfThing } from '../../core/document/followedThing'
import { isOfSurface } from '../../core/document/kinds'
import { leavesGaps } from '../../core/document/outlineGaps'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { ChoiceField } from '../fields/ChoiceField'
import { selectedArea } from '../store/benchState'
import { useTracking } from '../tracking/useTracking'
import { drawTool } from '../tools/tool'
import { MENU, MENU_ITEM, SMALL_BUTTON } from './buttonStyles'
import { OutlineGaps } from './OutlineGaps'
import { SpotsStay } from './SpotsStay'
import { TrackPanel } from './TrackPanel'

const NEW_TRACKS = [
  ['point', 'point', 'A point', 'position only'],
  ['pair', 'pair', 'Two points', 'position, turn and scale'],
  ['planar', 'outline', 'A plane', 'outline a flat surface: perspective too'],
  ['spread', 'outline', 'Many points', 'outline a textured area; bad points are left out'],
] as const

export function MotionPart({ mend }: { mend: MendRecord }) {
  const { store } = useBenchParts()
  const area = useBench(selectedArea) ?? mend.areas[0]!
  const tracks = useBench((bench) => bench.tracks)
  const frame = useBench((bench) => bench.frame)
  const { commit, setTool, selectTrack } = store.getState()
  const { cling, followScene, followThing } = useTracking()
  if (area.shape === 'matte')
    return <p className="py-1 text-soft">A matte sequence has its own picture for every frame.</p>
  const track = area.follow ? tracks.get(area.follow.trackId) : undefined
  const follow = (next: Follow | null) => {
    commit(setFollow(store.getState(), mend, area.id, next, frame))
    selectTrack(next?.trackId ?? null)
  }
  return (
    <>
      {leavesGaps(mend, area) && <OutlineGaps mend={mend} area={area} />}
      {isOfSurface(mend.kind) && <SpotsStay mend={mend} />}
      <div className="flex flex-wrap gap-1.5 py-1">
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className={SMALL_BUTTON}>Follow…</DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="start"
              className={MENU}
              onCloseAutoFocus={(event) => event.preventDefault()}
            >
              {NEW_TRACKS.map(([kind, shape, title, help]) => (
                <DropdownMenu.Item
                  key={kind}
                  className={MENU_ITEM}
                  onSelect={() =>
                    setTool(drawTool(shape, { for: 'track', kind, mendId: mend.id, areaId: area.id }))
                  }
                >
                  {title} <span className="text-soft">· {help}</span>
                </DropdownMenu.Item>
              ))}
              <SceneItem
                title="The background"
                help="as the scene moves around it, from here"
                onSelect={() => followScene(mend, area)}
              />
              {isOfThing(area) && (
                <SceneItem
                  title="The thing"
                  help="where it differs from the background, between keys and beyond"
                  onSelect={() => followThing(mend, area)}
                />
              )}
              {tracks.size > 0 && (
                <DropdownMenu.Label className="px-2 pt-2 pb-1 text-soft">
                  Tracks of this shot
                </DropdownMenu.Label>
              )}
              {[...tracks.values()]
                .filter((one) => one.kind !== 'cling' || (area.shape === 'path' && !isStroke(area)))
                .map((one) => (
                  <DropdownMenu.Item
                    key={one.id}
                    className={MENU_ITEM}
                    onSelect={() => follow({ trackId: one.id, uses: ALL_PARTS })}
                  >
                    {one.name}
                  </DropdownMenu.Item>
                ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        {area.shape === 'path' && !isStroke(area) && (
          <button
            type="button"
            className={SMALL_BUTTON}
            title="C"
            onClick={() => void cling(mend.id, area.id)}
          >
            {track?.kind === 'cling' ? 'Cling again' : 'Cling'}
          </button>
        )}
        {area.follow && (
          <button type="button" className={SMALL_BUTTON} onClick={() => follow(null)}>
            Follow nothing
          </button>
        )}
      </div>
      {area.follow && track && track.kind !== 'cling' && (
        <Uses mend={mend} area={area} follow={area.follow} />
      )}
      {track && <TrackPanel track={track} mend={mend} area={area} />}
      <ChoiceField
        title="Travel"
        help="Between keys: smooth as a swing or a throw, or straight from key to key."
        value={area.interpolation}
        choices={{ smooth: 'Smooth', linear: 'Linear' }}
        onChange={(interpolation) =>
          commit(setInterpolation(mend, area.id, interpolation as 'smooth' | 'linear'))
        }
      />
      <KeyList mend={mend} area={area} isOffset={track !== undefined} />
    </>
  )
}

/** What can be followed as soon as it is known how the scene moves. */
function SceneItem({ title, help, onSelect }: { title: string; help: string; onSelect: () => void }) {
  const { scene } = useBenchParts()
  return (
    <DropdownMenu.Item className={MENU_ITEM} disabled={!scene.scene} onSelect={onSelect}>
      {title} <span className="text-soft">· {scene.scene ? help : 'once the scene’s motion is known'}</span>
    </DropdownMenu.Item>
  )
}

const PARTS = { position: 'Position', rotation: 'Rotation', scale: 'Scale', skew: 'Skew' } as const

function Uses({ mend, area, follow }: { mend: MendRecord; area: KeyedArea; follow: Follow }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  return (
    <div role="group" aria-label="Takes over" className="flex flex-wrap gap-x-3 gap-y-1 py-1">
      {(Object.keys(PARTS) as (keyof typeof PARTS)[]).map((part) => (
        <label key={part} className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="accent-thread"
            checked={follow.uses[part]}
            onChange={(event) => {
              const uses = { ...follow.uses, [part]: event.target.checked }
              store.getState().commit(setFollow(store.getState(), mend, area.id, { ...follow, uses }, frame))
            }}
          />
          {PARTS[part]}
        </label>
      ))}
    </div>
  )
}

function KeyList({ mend, area, isOffset }: { mend: MendRecord; area: KeyedArea; isOffset: boolean }) {
  const { store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const { goTo, commit } = store.getState()
  return (
    <>
      <p className="flex flex-wrap items-center gap-1 py-1">
        <span
          className="mr-2 text-soft"
          title={isOffset ? 'Keys on top of a track shift it from there on' : undefined}
        >
          {isOffset ? 'Offsets' : 'Keys'}
        </span>
        {area.keys.map((key) => (
          <button
            key={key.frame}
            type="button"
            className={`rounded-xs px-1 font-mono ${key.frame === frame ? 'bg-lifted text-ink' : 'text-soft hover:text-ink'}`}
            onClick={() => goTo(key.frame)}
          >
            {key.frame}
          </button>
        ))}
      </p>
      <button
        type="button"
        disabled={!hasKeyAt(area, frame) || area.keys.length === 1}
        className={SMALL_BUTTON}
        onClick={() => commit(removeKeys(mend, area.id, [frame]))}
      >
        Remove the key at {frame}
      </button>
    </>
  )
}
