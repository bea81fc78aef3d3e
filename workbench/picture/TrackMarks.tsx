/** The selected track over the picture: where it is, where it has been, and how sure it is. */
import {
  compact,
  placesOf,
  trackSureAt,
  trackValuesAt,
  UNSURE_BELOW,
  type Track,
} from '../../core/document/tracks'
import { spreadPointsAt, withPlaceSet } from '../../core/document/follow'
import { setTrack } from '../../core/document/trackCommands'
import { useBench, useBenchParts } from '../BenchContext'
import { Handle } from './handles/Handle'
import { polygonPath } from './pathOutline'
import { toScreen } from './view'

const TRAIL_FRAMES = 12

export function TrackMarks({ track }: { track: Track }) {
  const { view, store } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const live = useBench((bench) =>
    bench.following?.trackId === track.id ? bench.following.live.at(-1) : undefined,
  )
  const values = live?.frame === frame ? live.values : trackValuesAt(track, frame)
  if (!values) return <Seed track={track} />
  if (track.kind === 'cling') return null
  if (track.kind === 'planar' || track.kind === 'spread') {
    return (
      <g>
        <path
          d={polygonPath(values.slice(0, 8), view)}
          fill="none"
          stroke="#000"
          strokeWidth={3}
          strokeOpacity={0.6}
        />
        <path
          d={polygonPath(values.slice(0, 8), view)}
          fill="none"
          stroke="#ececec"
          strokeWidth={1}
          strokeDasharray={isUnsure(track, frame) ? '2 4' : undefined}
        />
        {track.kind === 'spread' &&
          spreadPointsAt(track, frame).map((point, index) => <Spot key={index} {...point} />)}
      </g>
    )
  }
  if (track.kind === 'surface')
    return (
      <g>
        {placesOf(values).flatMap((x, i, places) =>
          i % 2 === 0 ? [<Spot key={i} x={x} y={places[i + 1]!} weight={values[(3 * i) / 2 + 2]!} />] : [],
        )}
      </g>
    )
  if (track.kind === 'face')
    return <g>{values.flatMap((x, i) => (i % 2 === 0 ? [<Dot key={i} x={x} y={values[i + 1]!} />] : []))}</g>
  const count = values.length / 2
  return (
    <g>
      {Array.from({ length: count }, (_, i) => (
        <g key={i}>
          <Trail track={track} frame={frame} index={i} />
          <Handle
            x={values[2 * i]!}
            y={values[2 * i + 1]!}
            label={`${count > 1 ? `Point ${i + 1} of track` : 'Place of track'} ${track.name}, x ${values[2 * i]!.toFixed(1)}, y ${values[2 * i + 1]!.toFixed(1)} px`}
            caption={`${track.name} · ${isUnsure(track, frame) ? 'unsure' : `${Math.round(trackSureAt(track, frame) * 100)} % sure`}`}
            isKeyed={!isUnsure(track, frame)}
            isSmall
            onMove={(x, y) => {
              const state = store.getState()
              const now = state.tracks.get(track.id)!
              const next = [...(trackValuesAt({ ...now, smoothFrames: 0 }, frame) ?? values)]
              next[2 * i] = compact(x)
              next[2 * i + 1] = compact(y)
              state.preview(
                setTrack(now, withPlaceSet(now, frame, next), `Set ${track.name} right at ${frame}`),
              )
            }}
            onMagnify={() => undefined}
          />
        </g>
      ))}
    </g>
  )
}

const isUnsure = (track: Track, frame: number): boolean => trackSureAt(track, frame) < UNSURE_BELOW

/** A track that was placed and not followed yet. */
function Seed({ track }: { track: Track }) {
  const { view } = useBenchParts()
  if (track.kind === 'planar' || track.kind === 'spread')
    return <path d={polygonPath(track.seed, view)} fill="none" stroke="#ececec" strokeDasharray="2 4" />
  return null
}

/** One of many points: a dot when it has a say, hollow when it does not. */
/** One of very many places: not to hide what it lies on. */
function Dot({ x, y }: { x: number; y: number }) {
  const { view } = useBenchParts()
  const { xScreen, yScreen } = toScreen(view, x, y)
  return <circle cx={xScreen} cy={yScreen} r={1.2} fill="#ececec" stroke="#000" strokeWidth={0.5} />
}

function Spot({ x, y, weight }: { x: number; y: number; weight: number }) {
  const { view } = useBenchParts()
  const { xScreen, yScreen } = toScreen(view, x, y)
  return (
    <circle
      cx={xScreen}
      cy={yScreen}
      r={3}
      fill={weight > 0.3 ? '#ececec' : 'none'}
      stroke={weight > 0.3 ? '#000' : '#ff7d66'}
      strokeWidth={1.2}
    />
  )
}

/** Where the point was on the frames around. */
function Trail({ track, frame, index }: { track: Track; frame: number; index: number }) {
  const { view } = useBenchParts()
  const places = track.frames
    .filter(([at]) => Math.abs(at - frame) <= TRAIL_FRAMES)
    .map((row) => {
      const { xScreen, yScreen } = toScreen(view, row[2 + 2 * index]!, row[3 + 2 * index]!)
      return `${xScreen.toFixed(1)} ${yScreen.toFixed(1)}`
    })
  if (places.length < 2) return null
  const d = `M${places.join('L')}`
  return (
    <g fill="none" className="pointer-events-none">
      <path d={d} stroke="#000" strokeOpacity={0.6} strokeWidth={3} />
      <path d={d} stroke="#b4b4b4" strokeWidth={1} />
    </g>
  )
}
