/** Looking aids as small live pictures; a click shows one large. */
import { useEffect, useLayoutEffect, useRef } from 'react'
import { NO_COMPARISON } from '../../core/view/compare'
import { PLAIN_VIEW, type Aid } from '../../core/view/viewTransform'
import { useBench, useBenchParts } from '../BenchContext'
import { AID_WORDS } from '../viewing/aids'
import { drawPicture, neighbourOf } from '../picture/drawPicture'
import { usePlatePicture } from '../preview/useFrameState'

const TILES: readonly Aid[] = ['plain', 'boosted', 'mean', 'spread', 'neighbour', 'red', 'green', 'blue']
const WIDTH_PX = 138

export function AidTiles() {
  const { clipPictures } = useBenchParts()
  const { areKnown, load } = clipPictures
  useEffect(() => {
    if (!areKnown) load()
  }, [areKnown, load])
  return (
    <aside
      aria-label="Looking aids"
      className="w-38 shrink-0 overflow-y-auto border-l border-line bg-panel p-1.5"
    >
      {TILES.map((aid) => (
        <AidTile key={aid} aid={aid} />
      ))}
    </aside>
  )
}

function AidTile({ aid }: { aid: Aid }) {
  const { store, clipPictures } = useBenchParts()
  const plate = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const picture = usePlatePicture(frame)
  const neighbour = usePlatePicture(neighbourOf(frame, plate))
  const isPlaying = useBench((bench) => bench.isPlaying)
  const isOn = useBench((bench) => bench.viewTransform.aid === aid)
  const canvas = useRef<HTMLCanvasElement>(null)
  const height = Math.max(1, Math.round((WIDTH_PX * plate.height) / plate.width))
  const isMissing = (aid === 'mean' || aid === 'spread') && !clipPictures[aid]
  useLayoutEffect(() => {
    // Playback has the first claim on time.
    if (!canvas.current || isPlaying || isMissing) return
    const view = { scale: WIDTH_PX / plate.width, left: 0, top: 0 }
    const panel = { width: WIDTH_PX, height }
    const viewTransform = { ...PLAIN_VIEW, aid }
    drawPicture(canvas.current, {
      panel,
      view,
      plate,
      pixels: { plate: picture, mended: null },
      neighbour,
      frame,
      isPlateShown: true,
      compare: NO_COMPARISON,
      isFlipped: false,
      seenBy: null,
      mapView: 'off',
      other: [],
      viewTransform,
      clipPictures,
    })
  }, [aid, clipPictures, frame, height, isMissing, isPlaying, neighbour, picture, plate])
  const { title, help } = AID_WORDS[aid]
  return (
    <button
      type="button"
      aria-pressed={isOn}
      title={help}
      className="mb-1.5 block w-full text-left"
      onClick={() => store.getState().setViewTransform({ aid })}
    >
      <span
        className={`block overflow-hidden rounded-sm border-2 ${isOn ? 'border-thread' : 'border-transparent'}`}
      >
        {isMissing ? (
          <span
            className="flex items-center justify-center bg-well px-2 text-center text-xs text-soft"
            style={{ height }}
          >
            after a scan
          </span>
        ) : (
          <canvas ref={canvas} width={WIDTH_PX} height={height} className="block w-full bg-well" />
        )}
      </span>
      <span className={`px-1 text-xs ${isOn ? 'text-ink' : 'text-soft'}`}>{title}</span>
    </button>
  )
}
