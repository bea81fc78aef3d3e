/** The strip of the Survey stage: on which frames finds of each kind are, and cuts. */
import type { SurveyAbout } from '../../core/jobs/survey'
import type { FindKind } from '../../core/survey/finds'
import { useBench, useBenchParts } from '../BenchContext'
import { FollowingNow } from '../progress/FollowingNow'
import { ShortcutKey } from '../shell/ShortcutKey'
import { StitchLine } from '../strip/StitchRow'
import { GUTTER_PX, StripFrame } from '../strip/StripFrame'
import { isOnFrame, KIND_WORDS, SURE_FROM } from './findWords'
import { useSurveyParts } from './SurveyContext'

export function SurveyStrip() {
  const { status } = useSurveyParts()
  const following = useBench((bench) => bench.following)
  const words = following ? (
    <div className="flex items-center gap-2 whitespace-nowrap">
      <span>{following.words}</span>
      <FollowingNow />
    </div>
  ) : status.about ? (
    <span data-testid="scan-words">{scanWords(status.about)}</span>
  ) : (
    <>
      <ShortcutKey id="scan" /> scan
    </>
  )
  return <StripFrame words={words} rows={(share) => <Rows share={share} />} />
}

const REST_WORDS = { moves: '', rests: ' · the camera rests', covered: ' · the lens is covered' } as const

export function scanWords({
  frames,
  seconds,
  cuts,
  rest,
  flashes = [],
  flickerStops = 0,
}: Omit<SurveyAbout, 'seconds' | 'frames'> & { frames: number; seconds: number }): string {
  const cutWords = cuts.length === 0 ? 'no cuts' : cuts.length === 1 ? '1 cut' : `${cuts.length} cuts`
  return `Scanned ${frames} frames in ${seconds.toFixed(1)} s · ${cutWords}${REST_WORDS[rest]}${flashWords(flashes.length)}${
    flickerStops > 0 ? ` · the light flickers by ${flickerStops.toFixed(2)} stops` : ''
  }`
}

const flashWords = (count: number): string =>
  count === 0 ? '' : count === 1 ? ' · 1 flash' : ` · ${count} flashes`

function Rows({ share }: { share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const { finds, status } = useSurveyParts()
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  const kinds = (Object.keys(KIND_WORDS) as FindKind[])
    .map((kind) => ({
      kind,
      all: finds.filter(({ find, state }) => find.kind === kind && state !== 'dismissed'),
    }))
    .filter(({ all }) => all.length > 0)
  return (
    <>
      {status.about?.cuts.map((cut) => (
        <button
          key={cut}
          type="button"
          aria-label={`Cut at ${cut}`}
          title={`Cut: another picture from ${cut} on`}
          className="absolute top-5 bottom-0 w-1.5 -translate-x-1/2 border-l-2 border-dashed border-caution"
          style={{ left: share(cut) }}
          onClick={() => store.getState().goTo(cut)}
        />
      ))}
      {status.about?.flashes?.map((flash) => (
        <button
          key={flash.firstFrame}
          type="button"
          aria-label={`Flash at ${flash.firstFrame}`}
          title={`${flash.stops > 0 ? 'Lighter' : 'Darker'} by ${Math.abs(flash.stops).toFixed(1)} stops, ${flash.firstFrame}–${flash.lastFrame}`}
          className="absolute top-5 bottom-0 w-1.5 -translate-x-1/2 border-l-2 border-dotted border-ink"
          style={{ left: share(flash.firstFrame) }}
          onClick={() => store.getState().goTo(flash.firstFrame)}
        />
      ))}
      {kinds.map(({ kind, all }) => (
        <div key={kind} className="relative" data-testid={`strip-${kind}`}>
          <span className="absolute text-xs text-soft" style={{ left: -GUTTER_PX + 10 }}>
            {all.length === 1 ? KIND_WORDS[kind].one : KIND_WORDS[kind].many}
          </span>
          <div className="py-1">
            <StitchLine
              firstFrame={firstFrame}
              lastFrame={lastFrame}
              height={9}
              lookAt={(frame) => {
                const here = all.filter(({ find }) => isOnFrame(find, frame))
                return here.length === 0
                  ? 'gap'
                  : here.some(({ find }) => find.sure >= SURE_FROM)
                    ? 'solid'
                    : 'thin'
              }}
            />
          </div>
        </div>
      ))}
    </>
  )
}
