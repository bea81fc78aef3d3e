/**
 * The practice set through the command line, as an artist would mend it, scored by its own scorer beside the best library.
 *
 *   node --import tsx evaluation/practice.ts FOLDER SCORER [--only=wire_01] [--quick] [--table]
 *
 * FOLDER holds the sequences, SCORER `score.py` and `baselines.json`. Frames are those that the libraries were scored on.
 * A JSON line for each sequence; with --table also the table of `docs/quality.md`.
 *
 *   library   best of the libraries, those that know the true motion among them
 *   ours      as the kind starts; of what is opaque with Grain off, as a library adds none
 *   grain     ratio of grain as the kind starts: 1 is as much as the truth has
 *   snags     frames of those scored on which a mend says that it probably shows
 *
 * --quick leaves out the second rendering, which tells the grain.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Attempt, type Measure, type Score } from './practiceAttempt'
import { openSequence, sequencesIn } from './practiceFootage'

/** What of a score is compared, by how the names of sequences begin: what is opaque has lost its grain for good. */
const MEASURES = {
  wire: 'psnr_clean',
  rod: 'psnr_clean',
  object: 'psnr_clean',
  patch: 'psnr_clean',
  fill: 'ssim_clean',
  mark: 'psnr_truth',
  mark_04: 'psnr_clean',
  dust: 'psnr_truth',
  pixels: 'psnr_truth',
  skin: 'psnr_truth',
  shadow: 'psnr_truth',
} as const satisfies Readonly<Record<string, Measure>>

const measureOf = (name: string): Measure =>
  name.startsWith('mark_04') ? MEASURES.mark_04 : MEASURES[name.split('_')[0] as keyof typeof MEASURES]

interface Baseline {
  readonly methods: Readonly<Record<string, { readonly frames: string; readonly score: Score }>>
}

interface Row {
  readonly sequence: string
  readonly half: 'sets' | 'reports'
  readonly measure: string
  readonly library: number | null
  readonly by: string
  /** null: nothing was mended. */
  readonly ours: number | null
  readonly grain?: number
  readonly snags?: string
  readonly more?: object
}

const plain = process.argv.slice(2).filter((one) => !one.startsWith('--'))
const [folder, scorer] = plain as [string | undefined, string | undefined]
const only = process.argv.find((one) => one.startsWith('--only='))?.slice('--only='.length)
const isQuick = process.argv.includes('--quick')

/** The best of the libraries for a sequence, and the frames that they were scored on. */
function bestLibrary({ methods }: Baseline, valueOf: (score: Score) => number | undefined, isLess: boolean) {
  let best: { by: string; value: number; frames: string } | null = null
  for (const [by, { frames, score }] of Object.entries(methods)) {
    const value = valueOf(score)
    // What is left in, what knows the answer, and what only finds the places are no rivals.
    if (value === undefined || /^(ref_|unblend_|detect_)/.test(by)) continue
    if (!best || (isLess ? value < best.value : value > best.value)) best = { by, value, frames }
  }
  return best
}

const rounded = (value: number, places = 2): number => Math.round(value * 10 ** places) / 10 ** places

async function rowOf(name: string, sequences: string, scorerFolder: string): Promise<Row | null> {
  const sequence = openSequence(sequences, name)
  const half = sequence.sets ? 'sets' : 'reports'
  const { sequences: baselines } = JSON.parse(readFileSync(join(scorerFolder, 'baselines.json'), 'utf8')) as {
    readonly sequences: Readonly<Record<string, Baseline>>
  }
  const baseline = baselines[name]!
  const work = mkdtempSync(join(tmpdir(), 'practice-'))
  try {
    const attempt = new Attempt(sequence, sequences, scorerFolder, work)
    if (name.startsWith('track_')) {
      const best = bestLibrary(baseline, ({ track }) => track?.mean_px, true)
      const { mean_px: ours, max_px: worst, lost_fraction: lost } = await attempt.track()
      const library = best?.value ?? null
      return {
        sequence: name,
        half,
        measure: 'mean_px',
        library,
        by: best?.by ?? '',
        ours,
        more: { worst, lost },
      }
    }
    const measure = measureOf(name)
    const best = bestLibrary(baseline, ({ frames }) => frames?.[measure], false)
    if (!best) return null
    const isMended = await attempt.prepare()
    const pixels = name.startsWith('pixels_') ? attempt.foundPixels() : null
    const rivals = { measure, library: rounded(best.value, 3), by: best.by }
    if (!isMended) return { sequence: name, half, ...rivals, ours: null, more: { ...pixels } }
    const isOpaque = measure !== 'psnr_truth'
    const bare = await attempt.render(best.frames, isOpaque ? 0 : undefined)
    const full = isOpaque && !isQuick ? await attempt.render(best.frames) : bare
    const [first, end] = best.frames.split(':').map(Number) as [number, number]
    const warned = new Set(bare.summary.snags.map(({ frame }) => frame))
    return {
      sequence: name,
      half,
      ...rivals,
      ours: rounded(bare.score[measure]!, 3),
      grain: full.score.grain_ratio,
      snags: `${warned.size}/${end - first}`,
      more: { detail: bare.score.detail_ratio, outside: bare.score.outside_max_abs_diff, ...pixels },
    }
  } finally {
    rmSync(work, { recursive: true })
  }
}

function tableOf(rows: readonly Row[]): string {
  const head = ['sequence', 'half', 'measure', 'best library', 'ours', 'grain', 'snags']
  const lines = rows.map((row) => {
    const isAhead =
      row.library !== null &&
      row.ours !== null &&
      (row.measure === 'mean_px' ? row.ours <= row.library : row.ours >= row.library)
    const ours = isAhead ? `**${row.ours}**` : String(row.ours)
    return [
      `\`${row.sequence}\``,
      row.half,
      row.measure,
      `${row.library} ${row.by}`,
      ours,
      row.grain ?? '',
      row.snags ?? '',
    ]
  })
  return [head, head.map(() => '---'), ...lines].map((cells) => `| ${cells.join(' | ')} |`).join('\n')
}

/** Of pixels and dust, finding is what matters, and of shadows there is no mend yet. */
const MENDED = ['dust_', 'fill_', 'mark_', 'object_', 'patch_', 'pixels_', 'rod_', 'skin_', 'track_', 'wire_']

if (!folder || !scorer) throw new Error('Say the folder of the sequences and that of the scorer.')
const rows: Row[] = []
for (const name of sequencesIn(folder, only ? [only] : MENDED)) {
  const begun = performance.now()
  const row = await rowOf(name, folder, scorer)
  if (row) rows.push(row)
  const seconds = rounded((performance.now() - begun) / 1000, 1)
  console.log(JSON.stringify({ ...(row ?? { sequence: name, ours: null }), seconds }))
}
if (process.argv.includes('--table')) console.log(tableOf(rows))
