/**
 * The frame store: every frame of a plate, lossless, readable in any order and in part.
 *
 * Storage is a folder now; whoever needs another kind implements `FrameStore`. A frame is one PAM file
 * (netpbm P7: a text head, then the samples, 16-bit ones high byte first), which any picture tool
 * opens. Rows lie one after the other, so a rectangle is read without the rest of the frame.
 */
import { open, readdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { createSamples, type BitDepth, type Samples } from '../../core/image/samples'
import type { Rect } from '../../core/image/rect'
import type { Frame } from '../../core/time'
import { makeFolder, putFolderInPlace } from '../durable.server'
import { requireRoom } from '../room.server'

export interface StoredShape {
  readonly width: number
  readonly height: number
  readonly channels: number
  readonly bitDepth: BitDepth
}

export interface FrameStore {
  /** Reads part of a frame. @throws StorageError when the frame is missing or not of the stated shape. */
  readRect(plateId: string, shape: StoredShape, frame: Frame, rect: Rect): Promise<Samples>
  /** A place for new frames, invisible until `commit`. @param owner  Whose they are: an import, a view; else the plate's own. */
  createWriter(plateId: string, owner?: string): Promise<FrameWriter>
  /** Deletes what an owner has begun and not finished, perhaps in a process that is gone. */
  sweep(owner: string): Promise<void>
  remove(plateId: string): Promise<void>
}

export interface FrameWriter {
  /** @throws DiskFullError in words. */
  write(frame: Frame, samples: Samples): Promise<void>
  /** Makes all frames visible at once, and settles when they are on the disk. */
  commit(): Promise<void>
  discard(): Promise<void>
}

export class StorageError extends Error {
  override readonly name = 'StorageError'
  readonly code: 'missing' | 'unexpected-shape'
  constructor(code: StorageError['code'], message: string, options?: { cause?: unknown }) {
    super(message, options)
    this.code = code
  }
}

const ID = /^[0-9a-f-]{36}$/

export function createDirectoryStore(root: string): FrameStore {
  const folderOf = (plateId: string): string => {
    if (!ID.test(plateId)) throw new RangeError(`plateId must be a UUID. Received ${plateId}`)
    return join(root, plateId)
  }
  return {
    async readRect(plateId, shape, frame, rect) {
      const file = join(folderOf(plateId), nameOf(frame))
      const handle = await open(file, 'r').catch((cause: unknown) => {
        throw new StorageError(
          'missing',
          `Frame ${frame} is not in the frame store. Bring the shot in again.`,
          { cause },
        )
      })
      try {
        return await readRows(handle, shape, rect)
      } finally {
        await handle.close()
      }
    },

    async createWriter(plateId, owner = plateId) {
      if (!ID.test(owner)) throw new RangeError(`owner must be a UUID. Received ${owner}`)
      const partial = `${folderOf(plateId)}.${owner}.partial`
      await makeFolder(partial)
      return {
        async write(frame, samples) {
          await requireRoom(partial, samples.data.byteLength)
          await writeFile(join(partial, nameOf(frame)), pamOf(samples))
        },
        async commit() {
          await rm(folderOf(plateId), { recursive: true, force: true })
          await putFolderInPlace(partial, folderOf(plateId))
        },
        discard: () => rm(partial, { recursive: true, force: true }),
      }
    },

    async sweep(owner) {
      const begun = (await readdir(root).catch(() => [])).filter((name) => name.endsWith(`.${owner}.partial`))
      for (const name of begun) await rm(join(root, name), { recursive: true, force: true })
    },

    remove: (plateId) => rm(folderOf(plateId), { recursive: true, force: true }),
  }
}

const nameOf = (frame: Frame): string => `${String(frame).padStart(7, '0')}.pam`

function headOf({ width, height, channels, bitDepth }: StoredShape): Buffer {
  const type = channels === 4 ? 'RGB_ALPHA' : 'RGB'
  return Buffer.from(
    `P7\nWIDTH ${width}\nHEIGHT ${height}\nDEPTH ${channels}\nMAXVAL ${bitDepth === 8 ? 255 : 65535}\nTUPLTYPE ${type}\nENDHDR\n`,
  )
}

function pamOf({ width, height, channels, data }: Samples): Buffer {
  const bitDepth = data.BYTES_PER_ELEMENT === 1 ? 8 : 16
  const samples = Buffer.from(
    data.buffer.slice(data.byteOffset, data.byteOffset + data.byteLength) as ArrayBuffer,
  )
  if (bitDepth === 16) samples.swap16()
  return Buffer.concat([headOf({ width, height, channels, bitDepth }), samples])
}

async function readRows(
  handle: Awaited<ReturnType<typeof open>>,
  shape: StoredShape,
  rect: Rect,
): Promise<Samples> {
  const { width, height, channels, bitDepth } = shape
  const isInside =
    rect.col >= 0 &&
    rect.row >= 0 &&
    rect.width > 0 &&
    rect.height > 0 &&
    rect.col + rect.width <= width &&
    rect.row + rect.height <= height
  if (!isInside)
    throw new RangeError(`rect must lie inside ${width} × ${height}. Received ${JSON.stringify(rect)}`)
  const head = headOf(shape)
  const found = Buffer.alloc(head.length)
  await handle.read(found, 0, head.length, 0)
  if (!found.equals(head))
    throw new StorageError(
      'unexpected-shape',
      'A stored frame is not of its plate’s size and depth. Bring the shot in again.',
    )
  const pixelBytes = channels * (bitDepth / 8)
  // One read for all rows: what lies beside the rectangle costs less than a call for every row.
  const span = Buffer.allocUnsafe(rect.height * width * pixelBytes)
  const { bytesRead } = await handle.read(span, 0, span.length, head.length + rect.row * width * pixelBytes)
  if (bytesRead < span.length)
    throw new StorageError('unexpected-shape', 'A stored frame is cut off. Bring the shot in again.')
  const samples = createSamples(rect.width, rect.height, channels, bitDepth)
  const out = Buffer.from(samples.data.buffer)
  for (let row = 0; row < rect.height; row++) {
    const from = (row * width + rect.col) * pixelBytes
    span.copy(out, row * rect.width * pixelBytes, from, from + rect.width * pixelBytes)
  }
  if (bitDepth === 16) out.swap16()
  return samples
}
