/** A small chart of what a mend of skin does to structure of each size: pores stay, blotches go. */
import { useEffect, useState } from 'react'
import { Bar, BarChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from 'recharts'
import type { MendRecord } from '../../core/document/mend'
import type { BandEnergy } from '../../core/measure/bandEnergies'
import { StoppedError } from '../../workers/pool'
import { useBench, useBenchParts } from '../BenchContext'
import { useShownFrame } from '../preview/useFrameState'
import { TRACK_URGENCY } from '../tracking/followAll'
import { SMALL_BUTTON } from './buttonStyles'

export function SkinBands({ mend }: { mend: MendRecord }) {
  const [isOpen, setOpen] = useState(false)
  return (
    <>
      <button
        type="button"
        className={SMALL_BUTTON}
        aria-expanded={isOpen}
        title="How much structure of each size the skin has, before and after"
        onClick={() => setOpen(!isOpen)}
      >
        Sizes
      </button>
      {isOpen && <BandChart mendId={mend.id} />}
    </>
  )
}

const AXIS = { fontSize: 10, fill: 'var(--color-soft)' } as const

function BandChart({ mendId }: { mendId: string }) {
  const bands = useBands(mendId)
  if (!bands) return <p className="w-full text-soft">Measuring…</p>
  if (bands.length === 0)
    return <p className="w-full text-soft">Nothing of the skin is evened on this frame.</p>
  const rows = bands.map(({ widePx, plate, result }) => ({ wide: wideWords(widePx), plate, result }))
  return (
    <figure
      className="w-full"
      data-testid="bands"
      aria-label={`Structure before and after: ${wordsOf(bands)}`}
    >
      <div className="h-28">
        <ResponsiveContainer width="100%" height="100%">
          <BarChart data={rows} margin={{ top: 6, right: 0, bottom: 0, left: -22 }} barGap={1}>
            <XAxis dataKey="wide" tick={AXIS} tickLine={false} interval={0} />
            <YAxis tick={AXIS} tickLine={false} />
            <Tooltip
              cursor={{ fill: 'var(--color-lifted)' }}
              contentStyle={{ background: 'var(--color-raised)', border: '1px solid var(--color-line)' }}
              formatter={(value) => `${Number(value).toFixed(2)} of 255`}
            />
            <Bar dataKey="plate" name="Plate" fill="var(--color-soft)" isAnimationActive={false} />
            <Bar dataKey="result" name="Evened" fill="var(--color-thread)" isAnimationActive={false} />
          </BarChart>
        </ResponsiveContainer>
      </div>
      <figcaption className="text-soft">
        Grey: the plate. Green: evened. By how wide spots are, px; in code values of 255.
      </figcaption>
    </figure>
  )
}

const wideWords = (px: number): string => (px < 10 ? px.toFixed(1) : String(Math.round(px)))

const wordsOf = (bands: readonly BandEnergy[]): string =>
  bands
    .map(({ widePx, plate, result }) => `${wideWords(widePx)} px ${plate.toFixed(1)} to ${result.toFixed(1)}`)
    .join(', ')

/** Of the present frame, measured anew whenever its mends are worked out anew. Null while that is going on. */
function useBands(mendId: string): readonly BandEnergy[] | null {
  const { pool, plateReference, shotId } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const { mended, stage } = useShownFrame()
  const name = stage === 'full' ? (mended?.name ?? null) : null
  const [measured, setMeasured] = useState<{ name: string; bands: readonly BandEnergy[] } | null>(null)
  useEffect(() => {
    if (!pool || name === null) return
    const stop = new AbortController()
    const job = { kind: 'bands', plate: plateReference, documentId: shotId, mendId, frame } as const
    pool.run(job, { urgency: TRACK_URGENCY, signal: stop.signal }).then(
      ({ bands }) => bands && setMeasured({ name, bands }),
      (cause: unknown) => {
        if (!(cause instanceof StoppedError)) setMeasured({ name, bands: [] })
      },
    )
    return () => stop.abort()
  }, [pool, plateReference, shotId, mendId, frame, name])
  return measured && (name === null || measured.name === name) ? measured.bands : null
}
