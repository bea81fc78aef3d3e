/**
 * Two pictures looked at together: the result, and what it is compared with — the plate, a result that was kept, a version. Pictures for
 * the screen (8-bit RGBA) are compared, never the footage.
 */
import { z } from 'zod'
import { labelled } from '../parameter'
import type { Size } from '../image/rect'
import { cos, sin } from '../kernels/exact'
import type { ScreenPicture } from './viewTransform'

export const COMPARISONS = ['off', 'wipe', 'beside', 'flip', 'difference', 'matte', 'seen'] as const
export type Comparison = (typeof COMPARISONS)[number]

export const COMPARISON_TITLES: Readonly<Record<Comparison, string>> = {
  off: 'Off',
  wipe: 'Wipe',
  beside: 'Side by side',
  flip: 'Flip',
  difference: 'Difference',
  matte: 'Matte',
  seen: 'Seen',
}

export const compareSchema = z.strictObject({
  mode: labelled(z.enum(COMPARISONS).default('off'), {
    title: 'Compare',
    help: 'How both share the picture; or how far mends cover it, or how often other frames saw what they gathered.',
    unit: '',
    choices: COMPARISON_TITLES,
  }),
  wipeX: labelled(z.number().min(0).max(1).default(0.5), {
    title: 'From left',
    help: 'Where the line lies, as a share of the picture’s width.',
    unit: '',
    step: 0.01,
  }),
  wipeY: labelled(z.number().min(0).max(1).default(0.5), {
    title: 'From top',
    help: 'Where the line lies, as a share of the picture’s height.',
    unit: '',
    step: 0.01,
  }),
  turnDeg: labelled(z.number().min(-180).max(180).default(0), {
    title: 'Turn',
    help: 'Of the line: 0 upright, the other picture to its left; 90 level, above.',
    unit: '°',
    step: 1,
  }),
  perSecond: labelled(z.number().min(0.5).max(12).default(2), {
    title: 'Rate',
    help: 'So many times a second both change places.',
    unit: '/s',
    step: 0.5,
  }),
  times: labelled(z.number().min(1).max(64).default(8), {
    title: 'Times',
    help: 'The difference is shown so many times as large.',
    unit: '×',
    step: 1,
  }),
  sign: labelled(z.enum(['absolute', 'signed']).default('absolute'), {
    title: 'Sign',
    help: 'Absolute: how much it differs. Signed: grey where nothing does, brighter where the result is.',
    unit: '',
    choices: { absolute: 'Absolute', signed: 'Signed' },
  }),
  matteAs: labelled(z.enum(['over', 'alone']).default('over'), {
    title: 'Shown',
    help: 'Over the picture as a tint, or alone: white where mends cover all.',
    unit: '',
    choices: { over: 'Over the picture', alone: 'Alone' },
  }),
})

/** Besides a version by its id. */
const OTHERS = ['plate', 'kept', 'now'] as const
const againstSchema = z.union([z.enum(OTHERS), z.uuid()]).default('plate')
const comparedSchema = compareSchema.extend({ against: againstSchema })
export type Compare = z.output<typeof comparedSchema>
/** The plate; the result that was kept; where a version is looked at, the mends as they are now; a version. */
export type Against = Compare['against']

export const NO_COMPARISON: Compare = comparedSchema.parse({})

/** Settings that a comparison has. */
export const COMPARED_BY = {
  off: [],
  wipe: ['wipeX', 'wipeY', 'turnDeg'],
  beside: [],
  flip: ['perSecond'],
  difference: ['times', 'sign'],
  matte: ['matteAs'],
  seen: [],
} as const satisfies Readonly<Record<Comparison, readonly (keyof z.output<typeof compareSchema>)[]>>

/** Whether a comparison shows two pictures. */
export const isOfTwo = (mode: Comparison): boolean => mode !== 'off' && mode !== 'matte' && mode !== 'seen'

/** For an address: the comparison and its settings. Empty where nothing is compared. */
export function textOfCompare(compare: Compare): string {
  const { mode, against } = compare
  if (mode === 'off') return ''
  const settings = COMPARED_BY[mode].map((name) => compare[name])
  return [mode, ...settings, ...(isOfTwo(mode) && against !== 'plate' ? [against] : [])].join(',')
}

/** What an address says; nothing is compared where it says nothing that holds. */
export function compareOfText(text: string | null): Compare {
  const [mode = 'off', ...values] = (text ?? '').split(',')
  if (!(COMPARISONS as readonly string[]).includes(mode)) return NO_COMPARISON
  const names: readonly string[] = COMPARED_BY[mode as Comparison]
  const said = names.flatMap((name, i) => {
    const value = values[i]
    return value ? [[name, name === 'sign' || name === 'matteAs' ? value : Number(value)] as const] : []
  })
  const against = values[names.length]
  return comparedSchema.safeParse({ mode, against, ...Object.fromEntries(said) }).data ?? NO_COMPARISON
}

/** The corners of the part of a picture that shows the other one, x, y pairs in px: what lies to the left of the line. */
export function wipedPart({ width, height }: Size, { wipeX, wipeY, turnDeg }: Compare): number[] {
  const angle = (turnDeg * Math.PI) / 180
  const [c, s] = [cos(angle), sin(angle)]
  /** Px to the right of the line. */
  const beyond = ([x, y]: readonly [number, number]) => (x - wipeX * width) * c + (y - wipeY * height) * s
  const corners = [[0, 0], [width, 0], [width, height], [0, height]] as const // prettier-ignore
  return corners.flatMap((from, i) => {
    const to = corners[(i + 1) % corners.length]!
    const [a, b] = [beyond(from), beyond(to)]
    const kept = a <= 0 ? [...from] : []
    if (a <= 0 === b <= 0) return kept
    const share = a / (a - b)
    return [...kept, from[0] + share * (to[0] - from[0]), from[1] + share * (to[1] - from[1])]
  })
}

/**
 * How far a result lies from the other picture, in place of the result.
 * @param other  Of the same size. Nothing is said of alpha: it is made opaque.
 */
export function showDifference(
  result: ScreenPicture,
  other: ScreenPicture,
  { times, sign }: Pick<Compare, 'times' | 'sign'>,
): void {
  const [to, from] = [result.data, other.data]
  const [middle, isSigned] = [sign === 'signed' ? 128 : 0, sign === 'signed']
  for (let at = 0; at < to.length; at += 4) {
    for (let c = at; c < at + 3; c++) {
      const away = to[c]! - from[c]!
      to[c] = middle + times * (isSigned ? away : Math.abs(away))
    }
    to[at + 3] = 255
  }
}
