/** The strip of the Proof stage: every measure over time, on the frames' own axis, and the notes. */
import { useMemo } from 'react'
import { Area, ComposedChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts'
import { PROOF_MEASURES, type ProofMeasure } from '../../core/proof/frameProof'
import type { ProofChart } from '../../core/proof/proofStatus'
import { useBench, useBenchParts } from '../BenchContext'
import { ShortcutKey } from '../shell/ShortcutKey'
import { SnagLine } from '../strip/SnagLine'
import { GUTTER_PX, StripFrame } from '../strip/StripFrame'
import { useProofParts } from './ProofContext'

export function ProofStrip() {
  const words = (
    <>
      <ShortcutKey id="snagBack" /> <ShortcutKey id="snagOn" /> snags · <ShortcutKey id="compareWipe" /> wipe
    </>
  )
  return <StripFrame words={words} rows={(share) => <Rows share={share} />} />
}

function Rows({ share }: { share: (frame: number) => string }) {
  const { status } = useProofParts()
  const inOrder = useMemo(() => [...status.snags].sort((a, b) => a.frame - b.frame), [status.snags])
  return (
    <>
      {inOrder.length > 0 && <SnagLine snags={inOrder} share={share} />}
      <NoteLine share={share} />
      {status.charts
        .filter(({ points }) => points.length > 0)
        .map((chart) => (
          <MeasureChart key={chart.measure} {...chart} />
        ))}
    </>
  )
}

/** Notes where they are: a frame as a mark, a range as a bar; resolved ones dim. */
function NoteLine({ share }: { share: (frame: number) => string }) {
  const { store } = useBenchParts()
  const { notes } = useProofParts()
  const top = notes.filter(({ answerTo }) => answerTo === null)
  if (top.length === 0) return null
  return (
    <div className="relative h-4" data-testid="note-line">
      <span className="absolute text-xs text-soft" style={{ left: -GUTTER_PX + 10 }}>
        Notes
      </span>
      {top.map((note) => (
        <button
          key={note.id}
          type="button"
          title={`${note.author}: ${note.words}`}
          aria-label={`Note at ${note.firstFrame} by ${note.author}`}
          className={`absolute top-1 h-2.5 min-w-2.5 rounded-xs border border-ink ${note.resolvedBy === null ? 'bg-ink' : 'opacity-50'}`}
          style={{
            left: share(note.firstFrame - 0.4),
            width: `calc(${share(note.lastFrame + 0.4)} - ${share(note.firstFrame - 0.4)})`,
          }}
          onClick={() => store.getState().goTo(note.firstFrame)}
        />
      ))}
    </div>
  )
}

const HEIGHT_PX = 30
/** Values beyond are drawn at the end of the range: so far from the usual no difference counts. */
const RANGES: Readonly<Record<ProofMeasure, readonly [number, number]>> = {
  seam: [0, 6],
  flicker: [0, 6],
  residue: [0, 3],
  grain: [0, 2.5],
  sharpness: [0, 2],
  sure: [0, 100],
  seen: [0, 100],
}

function MeasureChart({ measure, points }: ProofChart) {
  const { store } = useBenchParts()
  const { firstFrame, lastFrame } = useBench((bench) => bench.plate)
  const frame = useBench((bench) => bench.frame)
  const { title, help, usual, unit } = PROOF_MEASURES[measure]
  const [low, high] = RANGES[measure]
  const data = useMemo(
    () =>
      points.map((point) => ({
        frame: point.frame,
        range: [clamp(point.min, low, high), clamp(point.max, low, high)],
      })),
    [high, low, points],
  )
  const here = points.findLast((point) => point.frame <= frame)
  const said = here ? `${here.max.toFixed(unit ? 0 : 2)}${unit ? ` ${unit}` : ''}` : '–'
  return (
    <figure
      className="relative border-b border-line/60"
      style={{ height: HEIGHT_PX }}
      aria-label={`${title}: ${help}. ${said} at frame ${frame}`}
      data-testid={`chart-${measure}`}
    >
      <figcaption
        className="absolute text-xs"
        style={{ left: -GUTTER_PX + 10, width: GUTTER_PX - 16 }}
        title={help}
      >
        <span className="block text-soft">{title}</span>
        <span className="block font-mono">{said}</span>
      </figcaption>
      <button
        type="button"
        tabIndex={-1}
        aria-label={`Go to a frame of ${title}`}
        className="absolute inset-0 z-10 cursor-pointer"
        onClick={(event) => {
          const box = event.currentTarget.getBoundingClientRect()
          const count = lastFrame - firstFrame + 1
          store.getState().goTo(firstFrame + Math.floor(((event.clientX - box.left) / box.width) * count))
        }}
      />
      <ResponsiveContainer width="100%" height="100%">
        <ComposedChart data={data} margin={{ top: 2, right: 0, bottom: 2, left: 0 }}>
          <XAxis dataKey="frame" type="number" hide domain={[firstFrame - 0.5, lastFrame + 0.5]} />
          <YAxis hide domain={[low, high]} />
          <ReferenceLine y={usual} stroke="var(--color-lifted)" />
          <Area
            dataKey="range"
            type="linear"
            stroke="var(--color-thread)"
            strokeWidth={1.2}
            fill="var(--color-thread)"
            fillOpacity={0.3}
            isAnimationActive={false}
          />
        </ComposedChart>
      </ResponsiveContainer>
    </figure>
  )
}

const clamp = (value: number, low: number, high: number): number => Math.min(high, Math.max(low, value))
