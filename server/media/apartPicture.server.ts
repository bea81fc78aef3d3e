/**
 * Pictures from outside are read in a process of their own, under the limits of media tools: what a hostile file does to a
 * reader, it does to that process alone.
 */
import { join } from 'node:path'
import type { PlateShape } from '../../core/shot/clip'
import type { Samples } from '../../core/image/samples'
import { ROOT } from '../root.server'
import { ownEnd, startMedia } from './ffmpeg.server'
import { readMarkPicture } from './markPicture.server'
import { MediaError } from './mediaError'
import { readStillPicture } from './still.server'

/** What is to be read, and what the user calls it. */
export type PictureOrder = {
  readonly path: string
  readonly shownName: string
} & ({ readonly kind: 'still'; readonly plate: PlateShape } | { readonly kind: 'mark' })

/** The first line of an answer; after it the samples, as they lie in memory. */
type Head =
  | (Pick<Samples, 'width' | 'height' | 'channels'> & { readonly isDeep: boolean })
  | { readonly refusal: string }

const TIMEOUT_MS = 60_000
const NEW_LINE = 0x0a

/** From source, TypeScript has to be turned on first. The router's build stands elsewhere than what runs in Node. */
const PROGRAM = import.meta.url.endsWith('.ts')
  ? ['--import', 'tsx', join(ROOT, 'server/media/apartPicture.ts')]
  : [join(ROOT, 'build-node/apartPicture.mjs')]

/** @throws MediaError in words that name the file. */
export async function readPictureApart(order: PictureOrder, signal?: AbortSignal): Promise<Samples> {
  const reader = startMedia('node', [...PROGRAM, JSON.stringify(order)], { silenceMs: TIMEOUT_MS, signal })
  reader.stdin.end()
  const chunks: Buffer[] = []
  for await (const chunk of reader.stdout) chunks.push(chunk as Buffer)
  const answer = Buffer.concat(chunks)
  const end = answer.indexOf(NEW_LINE)
  const { code, stderr } = await ownEnd(reader)
  // By itself it ends well, whatever the picture is: anything else is our own fault.
  if (code !== null && (code !== 0 || end < 0)) throw new Error(`A picture could not be looked at: ${stderr}`)
  if (end < 0)
    throw new MediaError('unreadable', `${order.shownName} cannot be read: it takes more time or memory than a picture may. Nothing was kept of it. Export it again, smaller.`, { cause: stderr }) // prettier-ignore
  const head = JSON.parse(answer.toString('utf8', 0, end)) as Head
  if ('refusal' in head) throw new MediaError('unreadable', head.refusal)
  const { isDeep, ...size } = head
  const bytes = new Uint8Array(answer.subarray(end + 1)) // lies on its own: 16-bit samples must lie on even bytes
  return { ...size, data: isDeep ? new Uint16Array(bytes.buffer) : bytes }
}

/** What that process does. */
export async function answerApart(order: PictureOrder, write: (bytes: Uint8Array | string) => void) {
  try {
    const { data, width, height, channels } = order.kind === 'still'
      ? await readStillPicture(order.path, order.plate, order.shownName)
      : await readMarkPicture(order.path, order.shownName) // prettier-ignore
    write(
      `${JSON.stringify({ width, height, channels, isDeep: data.BYTES_PER_ELEMENT === 2 } satisfies Head)}\n`,
    )
    write(new Uint8Array(data.buffer, data.byteOffset, data.byteLength))
  } catch (cause) {
    if (!(cause instanceof MediaError)) throw cause
    write(`${JSON.stringify({ refusal: cause.message } satisfies Head)}\n`)
  }
}
