/** The `source` command: mends that copy get the place to copy from that looks best. */
import { tracksById } from '../core/document/tracks'
import { findFill } from '../core/fill/registry'
import { serialiseDocument } from '../core/document/document'
import type { Mend } from '../core/document/mend'
import { sourceAt, suggestedResults } from '../core/evaluate/suggest/suggestedResults'
import type { SuggestedSource } from '../core/evaluate/suggest/suggestSources'
import type { ShotDocument } from '../core/plan/shotDocument'
import type { Clip } from '../core/shot/clip'
import { marksBeside, mattesBeside, stillsBeside } from './picturesBeside'
import { onFootage, readDocument, requireGoing, writeWhole } from './plate'
import { readScene } from './readScene'

export interface SourceOptions {
  readonly plate: string
  readonly mends: string
  /** scene.json of the same plate; absent: without scene motion. */
  readonly scene?: string
  readonly rate: string
  readonly out: string
}

export interface SourceSummary {
  /** Of each mend that had no source: the best places, the first of which was taken; none when every place is covered. */
  readonly suggested: Readonly<Record<string, readonly SuggestedSource[]>>
  readonly warnings: readonly string[]
  readonly out: string
}

/** @throws CliError with the exit code. */
export async function suggestSourcesOf(
  options: SourceOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<SourceSummary> {
  const document = await readDocument(options.mends)
  const scene = options.scene ? await readScene(options.scene) : null
  return onFootage(options, document.plate, say, signal, async (footage) => {
    const { source, shape, firstFrame, lastFrame } = footage
    const clip: Clip = {
      plate: shape,
      readRect: source.readRect,
      readMatte: mattesBeside(options.mends, signal),
      readStill: stillsBeside(options.mends, shape),
      readMark: marksBeside(options.mends),
    }
    const shot: ShotDocument = {
      mends: document.mends,
      tracks: tracksById(document.tracks),
      plate: { firstFrame, lastFrame, width: shape.width, height: shape.height },
      scene,
    }
    const suggested: Record<string, readonly SuggestedSource[]> = {}
    const warnings: string[] = []
    const mends: Mend[] = []
    for (const mend of document.mends) {
      const area = mend.areas.find(({ role }) => role === 'cover')
      if (mend.source || !area || !needsSource(mend)) {
        mends.push(mend)
        continue
      }
      const frame = Math.floor((mend.span.firstFrame + mend.span.lastFrame) / 2)
      const request = { mendId: mend.id, areaId: area.id, frame }
      const results = await suggestedResults(shot, request, clip, { shouldStop: () => signal.aborted })
      const found = results.map(({ picture: _picture, ...one }): SuggestedSource => one)
      suggested[mend.id] = found
      const [best] = found
      if (best) say(`${mend.name}: ${best.dx}, ${best.dy} px beside\n`)
      else warnings.push(`${mend.name}: no place near it is free over the whole span.`)
      mends.push(best ? { ...mend, source: sourceAt(mend, area, shot.tracks, best) } : mend)
    }
    for (const one of warnings) say(`${one}\n`)
    requireGoing(signal)
    await writeWhole(options.out, serialiseDocument({ ...document, mends }))
    return { suggested, warnings, out: options.out }
  })
}

const needsSource = ({ fill }: Mend): boolean => findFill(fill.methodId)?.needsSource?.(fill.params) === true
