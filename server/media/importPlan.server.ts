/** What was dropped on the page, sorted out before a byte is sent. */
import { z } from 'zod'
import { endingOf, isVideo, PICTURE_ENDINGS, VIDEO_ENDINGS } from '../../core/jobs/footage'
import type { FrameRate } from '../../core/time'

export const LIMITS = {
  fileBytes: 200 * 2 ** 30,
  pictureBytes: 2 * 2 ** 30,
  files: 100_000,
  sidePx: 16_384,
  pixels: 80_000_000,
  frames: 200_000,
} as const

export const dropSchema = z.strictObject({
  files: z
    .array(
      z.strictObject({
        name: z.string().min(1).max(255, 'A file’s name may have 255 characters at most.'),
        sizeBytes: z.number().int().min(0),
      }),
    )
    .min(1, 'It holds no files.')
    .max(LIMITS.files, `It may hold ${LIMITS.files} files at most.`),
  /** Only numbered pictures need it: a video brings its own. */
  frameRate: z.strictObject({ num: z.int().min(1).max(1_000_000), den: z.int().min(1).max(1_000_000) }),
})
export type Drop = z.output<typeof dropSchema>

export interface PlannedFile {
  readonly name: string
  readonly sizeBytes: number
}

export type ImportPlan =
  | { readonly kind: 'video'; readonly file: PlannedFile; readonly firstFrame: number }
  | {
      readonly kind: 'sequence'
      /** In order of their numbers, without a gap. */
      readonly files: readonly PlannedFile[]
      readonly ending: string
      readonly firstFrame: number
      readonly frameRate: FrameRate
    }

export type PlanResult =
  | { readonly ok: true; readonly name: string; readonly plan: ImportPlan }
  | { readonly ok: false; readonly message: string }

const VIDEO_FIRST_FRAME = 1001 // common practice: shots count from 1001, so that handles stay above zero

/** Decides what a drop is: one video, or one run of numbered pictures. Says in words why it is neither. */
export function planImport({ files, frameRate }: Drop): PlanResult {
  const refuse = (message: string): PlanResult => ({ ok: false, message })
  const visible = files.filter((file) => !file.name.startsWith('.'))
  if (visible.length === 0)
    return refuse(
      `${files[0]!.name} is a hidden file: there is no footage in this drop. Drop a video or numbered pictures.`,
    )
  const empty = visible.find((file) => file.sizeBytes === 0)
  if (empty)
    return refuse(
      `${empty.name} is empty (0 bytes). Nothing was brought in. Copy the file again from its source.`,
    )

  const endings = new Set(visible.map((file) => endingOf(file.name)))
  const known = [...VIDEO_ENDINGS, ...PICTURE_ENDINGS]
  const otherMend = visible.find((file) => !known.includes(endingOf(file.name)))
  if (otherMend) {
    return refuse(
      `${otherMend.name} is of a kind that cannot be read here. Nothing was brought in. Use one of ${known.map((ending) => ending.toUpperCase()).join(', ')}.`,
    )
  }
  const [first] = visible
  if (visible.length === 1 && isVideo(first!.name)) {
    if (first!.sizeBytes > LIMITS.fileBytes)
      return refuse(
        `${first!.name} is larger than ${LIMITS.fileBytes / 2 ** 30} GiB. Bring it in as several shots.`,
      )
    return {
      ok: true,
      name: stemOf(first!.name),
      plan: { kind: 'video', file: first!, firstFrame: VIDEO_FIRST_FRAME },
    }
  }
  const video = visible.find((file) => isVideo(file.name))
  if (video)
    return refuse(
      `${video.name} is a video among other files. Nothing was brought in. Drop one video, or the pictures of one shot.`,
    )
  if (endings.size > 1)
    return refuse(
      `The pictures are of several kinds (${[...endings].join(', ')}). Nothing was brought in. Drop pictures of one kind.`,
    )
  return planSequence(visible, frameRate)
}

function planSequence(files: readonly PlannedFile[], frameRate: FrameRate): PlanResult {
  const refuse = (message: string): PlanResult => ({ ok: false, message })
  const numbered = files.map((file) => ({ file, match: /^(.*?)(\d+)\.[^.]+$/.exec(file.name) }))
  const unnumbered = numbered.find(({ match }) => match === null)
  if (unnumbered)
    return refuse(
      `${unnumbered.file.name} has no frame number before its ending. Nothing was brought in. Name the pictures like shot.1001.png.`,
    )
  const stems = new Set(numbered.map(({ match }) => match![1]!))
  if (stems.size > 1)
    return refuse(
      `The pictures belong to several runs (${[...stems].slice(0, 3).join(', ')}). Nothing was brought in. Drop one run at a time.`,
    )
  const sorted = numbered
    .map(({ file, match }) => ({ file, number: Number(match![2]) }))
    .sort((a, b) => a.number - b.number)
  for (let i = 1; i < sorted.length; i++) {
    const [before, here] = [sorted[i - 1]!, sorted[i]!]
    if (here.number === before.number)
      return refuse(
        `${before.file.name} and ${here.file.name} have the same number. Nothing was brought in. Remove one of them.`,
      )
    if (here.number > before.number + 1) {
      return refuse(
        `The numbering has a hole: after ${before.file.name} comes ${here.file.name}; ${here.number - before.number - 1} missing. Nothing was brought in. Add the missing pictures.`,
      )
    }
  }
  const large = files.find((file) => file.sizeBytes > LIMITS.pictureBytes)
  if (large) return refuse(`${large.name} is larger than ${LIMITS.pictureBytes / 2 ** 30} GiB.`)
  const [stem] = stems
  return {
    ok: true,
    name: stem!.replace(/[._\-\s]+$/, '') || 'pictures',
    plan: {
      kind: 'sequence',
      files: sorted.map(({ file }) => file),
      ending: endingOf(files[0]!.name),
      firstFrame: sorted[0]!.number,
      frameRate,
    },
  }
}

/** The files of a plan in the order in which they are sent. */
export const filesOf = (plan: ImportPlan): readonly PlannedFile[] =>
  plan.kind === 'video' ? [plan.file] : plan.files

/** What a sent file is called in our own folder: a number and a known ending, nothing from outside. */
export function storedNameOf(plan: ImportPlan, index: number): string {
  return plan.kind === 'video'
    ? `plate.${endingOf(plan.file.name)}`
    : `${String(index).padStart(7, '0')}.${plan.ending}`
}
const stemOf = (name: string): string => name.replace(/\.[^.]+$/, '')
