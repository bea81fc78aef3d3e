/** The `survey` command: what of a plate must go, found without a browser. */
import { surveyPlate } from '../core/survey/surveyPlate'
import type { FindKind } from '../core/survey/finds'
import { onFootage, stopped, writeWhole } from './plate'

export interface SurveyOptions {
  readonly plate: string
  readonly out: string
  readonly firstFrame: string
  readonly rate: string
}

export interface SurveySummary {
  readonly frames: number
  readonly rest: string
  readonly cuts: number
  readonly flashes: number
  readonly finds: Readonly<Record<FindKind, number>>
  readonly out: string
}

export async function surveyFootage(
  options: SurveyOptions,
  say: (text: string) => void,
  signal: AbortSignal,
): Promise<SurveySummary> {
  const known = { firstFrame: Number(options.firstFrame), frameRate: { num: 24, den: 1 } }
  return onFootage(options, known, say, signal, async ({ source, shape, firstFrame, lastFrame }) => {
    const surveyed = await surveyPlate(
      { plate: shape, readRect: source.readRect },
      { firstFrame, lastFrame },
      {
        shouldStop: () => signal.aborted,
        onProgress: (done, total) => say(`\r${done} of ${total} frames looked through  `),
      },
    )
    if (!surveyed) throw stopped()
    say('\n')
    const { survey } = surveyed
    await writeWhole(options.out, `${JSON.stringify(survey, null, 2)}\n`)
    const count = (kind: FindKind) => survey.finds.filter((find) => find.kind === kind).length
    return {
      frames: survey.plate.frameCount,
      rest: survey.rest,
      cuts: survey.cuts.length,
      flashes: survey.flashes?.length ?? 0,
      finds: {
        pixel: count('pixel'),
        mote: count('mote'),
        mark: count('mark'),
        line: count('line'),
        specks: count('specks'),
      },
      out: options.out,
    }
  })
}
