/** A sequence of the practice set mended through the command line, in a folder of its own, and scored. */
import { execFileSync } from 'node:child_process'
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { acceptFindsOf } from '../cli/accept'
import { followScene } from '../cli/follow'
import { followThings } from '../cli/followThing'
import { mendFootage, type MendSummary } from '../cli/mend'
import { sceneOfFootage } from '../cli/scene'
import { suggestSourcesOf } from '../cli/source'
import { surveyFootage } from '../cli/survey'
import { takeMarks } from '../cli/takeMarks'
import { clingFootage, trackFootage } from '../cli/track'
import {
  DOCUMENT_FORMAT,
  DOCUMENT_VERSION,
  parseDocument,
  serialiseDocument,
  type MendDocument,
} from '../core/document/document'
import { surveySchema } from '../core/survey/finds'
import { parseFile, tracksFileSchema } from '../core/document/trackFiles'
import { trackMotionAt, type Track } from '../core/document/tracks'
import { findFill } from '../core/fill/registry'
import { apply } from '../core/geometry/transform'
import type { PracticeSequence } from './practiceFootage'
import { restsOnGround, roughMends } from './practiceMends'

export type Measure = 'psnr_clean' | 'psnr_truth' | 'ssim_clean'

export interface FrameScore extends Readonly<Partial<Record<Measure, number>>> {
  readonly grain_ratio?: number
  readonly detail_ratio?: number
  readonly outside_max_abs_diff?: number
}
export interface Score {
  readonly frames?: FrameScore
  readonly track?: { readonly mean_px: number; readonly max_px: number; readonly lost_fraction: number }
  readonly pixels?: { readonly precision: number; readonly recall: number }
}

/** So sure a find must be to be accepted with all others. */
const ACCEPTED_FROM = 0.8
const QUIET = () => undefined
const NEVER = new AbortController().signal

export class Attempt {
  readonly #sequence: PracticeSequence
  readonly #folder: string
  readonly #scorer: string
  readonly #work: string

  constructor(sequence: PracticeSequence, sequences: string, scorerFolder: string, work: string) {
    this.#sequence = sequence
    this.#folder = join(sequences, sequence.name)
    this.#scorer = scorerFolder
    this.#work = work
  }

  get #options() {
    return { plate: this.#sequence.patternOf('plate'), firstFrame: '0', rate: '' }
  }

  #path(name: string): string {
    return join(this.#work, name)
  }

  /** Drawn or found, followed, with the scene's motion and a place to copy from. @returns null where there is nothing to mend. */
  async prepare(): Promise<boolean> {
    const { name } = this.#sequence
    if (/^(dust|pixels)_/.test(name)) {
      const finds = this.#path('finds.json')
      await surveyFootage({ ...this.#options, out: finds }, QUIET, NEVER)
      const out = this.#path('mends.json')
      const { mends } = await acceptFindsOf({ finds, from: String(ACCEPTED_FROM), rate: '24', out })
      if (mends === 0) return false
    } else {
      const mends = await roughMends(this.#sequence)
      if (!mends) return false
      this.#write({ ...this.#document(), mends })
      if (/^(wire|rod)_/.test(name)) await clingFootage(this.#mending('mends.json'), QUIET, NEVER)
    }
    const scene = this.#path('scene.json')
    await sceneOfFootage({ ...this.#options, mends: this.#path('mends.json'), out: scene }, QUIET, NEVER)
    // Carried by the background: what passes in front of the thing pulls nothing along.
    if (name.startsWith('patch_') || restsOnGround(name))
      await followScene({ mends: this.#path('mends.json'), scene, out: this.#path('mends.json') })
    if (name.startsWith('object_') || (name.startsWith('shadow_') && !restsOnGround(name)))
      await followThings({ ...this.#mending('mends.json'), scene }, QUIET, NEVER)
    if (name.startsWith('mark_')) await takeMarks({ ...this.#mending('mends.json'), scene }, QUIET, NEVER)
    await suggestSourcesOf({ ...this.#mending('mends.json'), scene }, QUIET, NEVER)
    return true
  }

  #mending(out: string) {
    return { ...this.#options, mends: this.#path('mends.json'), out: this.#path(out) }
  }

  #document(): MendDocument {
    const { clip, frameCount, name } = this.#sequence
    const { width, height } = clip.plate
    const plate = { name, width, height, firstFrame: 0, frameCount, frameRate: { num: 24, den: 1 } }
    return { format: DOCUMENT_FORMAT, version: DOCUMENT_VERSION, plate, mends: [], tracks: [] }
  }

  #write(document: MendDocument): void {
    writeFileSync(this.#path('mends.json'), serialiseDocument(document))
  }

  #read(): MendDocument {
    const parsed = parseDocument(readFileSync(this.#path('mends.json'), 'utf8'))
    if (!parsed.ok) throw new Error(parsed.detail)
    return parsed.document
  }

  async #followed(tracks: readonly object[]): Promise<readonly Track[]> {
    const [points, out] = [this.#path('points.json'), this.#path('tracks.json')]
    writeFileSync(points, JSON.stringify({ format: 'fillagrant-points', version: 1, tracks }))
    await trackFootage({ ...this.#options, points, out }, QUIET, NEVER)
    const file = parseFile(tracksFileSchema, readFileSync(out, 'utf8'))
    if (!file.ok) throw new Error(file.detail)
    return file.value.tracks
  }

  /** Every mend filled otherwise than its kind starts, as the fill starts. */
  useFill(id: string): void {
    const document = this.#read()
    const { version, params } = findFill(id)!
    const fill = { methodId: id, methodVersion: version, params: params.parse({}) }
    this.#write({ ...document, mends: document.mends.map((mend) => ({ ...mend, fill })) })
  }

  /** Renders the frames that are scored. @param grain  Of every mend; as it starts where it is left out. */
  async render(frames: string, grain?: number): Promise<{ score: FrameScore; summary: MendSummary }> {
    const document = this.#read()
    const mends = document.mends.map((mend) =>
      grain === undefined ? mend : { ...mend, finish: { ...mend.finish, grain } },
    )
    const file = this.#path('rendered.json')
    writeFileSync(file, serialiseDocument({ ...document, mends }))
    const out = this.#path(`out-${grain ?? 'starts'}`)
    mkdirSync(out)
    const [first, end] = frames.split(':').map(Number) as [number, number]
    const summary = await mendFootage(
      {
        plate: this.#sequence.patternOf('plate'),
        mends: file,
        out: join(out, '%04d.png'),
        scene: this.#path('scene.json'),
        frames: `${first}-${end - 1}`,
        rate: '',
      },
      QUIET,
      NEVER,
    )
    return { score: this.#score(out, frames).frames!, summary }
  }

  #score(results: string, frames: string): Score {
    const script = join(this.#scorer, 'score.py')
    const text = execFileSync('/usr/bin/python3', [script, this.#folder, results, '--frames', frames])
    return JSON.parse(text.toString()) as Score
  }

  /** How well bad pixels were found: those that would be accepted at once. */
  foundPixels(): NonNullable<Score['pixels']> {
    const { finds } = surveySchema.parse(JSON.parse(readFileSync(this.#path('finds.json'), 'utf8')))
    const pixels = finds.flatMap((find) => {
      if (find.kind !== 'pixel' || find.sure < ACCEPTED_FROM) return []
      const { x, y, widthPx, heightPx } = find
      const [left, top] = [Math.round(x - widthPx / 2), Math.round(y - heightPx / 2)]
      const [cols, rows] = [Math.round(widthPx), Math.round(heightPx)]
      return Array.from({ length: cols * rows }, (_, i) => [left + (i % cols), top + Math.floor(i / cols)])
    })
    const out = this.#path('pixels')
    mkdirSync(out)
    writeFileSync(join(out, 'pixels.json'), JSON.stringify({ pixels }))
    return this.#score(out, '0:1').pixels!
  }

  /** Follows the points of a tracking sequence from its first frame. */
  async track(): Promise<NonNullable<Score['track']>> {
    const { truth, frameCount } = this.#sequence
    const asked = truth[0]!.points!.map(([x, y], i) => ({
      name: `P${i + 1}`,
      kind: 'point',
      frame: 0,
      seed: [x + 0.5, y + 0.5],
      direction: 'forward',
    }))
    const tracks = await this.#followed(asked)
    const points = tracks.map((track) => {
      const held = new Set(track.frames.map(([frame]) => frame))
      const [x, y] = track.seed as [number, number]
      return Array.from({ length: frameCount }, (_, frame) => {
        const at = held.has(frame) ? apply(trackMotionAt(track, frame)!, x, y) : null
        return at && [at.x - 0.5, at.y - 0.5]
      })
    })
    const out = this.#path('tracked')
    mkdirSync(out)
    writeFileSync(join(out, 'track.json'), JSON.stringify({ points }))
    return this.#score(out, `0:${frameCount}`).track!
  }
}
