/**
 * Room on the disk. What takes much of it (footage, renders, pictures) is refused in words while there is still some left,
 * which is kept for the database: edits go on being saved.
 */
import { statfs } from 'node:fs/promises'
import { MediaError } from './media/mediaError'

export interface Room {
  /** Bytes. */
  readonly free: number
  readonly all: number
}

/** Less than this share, or this much, is told well before it is too late. */
const LOW_SHARE = 0.05
const LOW_BYTES = 5 * 2 ** 30
/** What only the database may take: so much, but of a small disk no more than this share. */
const KEPT_BYTES = 512 * 2 ** 20
const KEPT_SHARE = 0.05

/** Of the disk that a folder lies on. */
export async function roomOn(folder: string): Promise<Room> {
  const { bavail, blocks, bsize } = await statfs(folder)
  return { free: bavail * bsize, all: blocks * bsize }
}

/** A file system that tells no size is never low. */
export const isLow = ({ free, all }: Room): boolean => all > 0 && (free < LOW_BYTES || free < LOW_SHARE * all)

const WORDS =
  'The disk is full: nothing more can be brought in or rendered. What was saved is safe, and edits are still saved. Empty the bin, delete versions, or move the data folder to a larger disk; then try again.'

export class DiskFullError extends MediaError {
  constructor(options?: { cause?: unknown }) {
    super('cannot-write', WORDS, options)
  }
}

/** @param bytes  What is about to be written, as far as it is known. @throws DiskFullError in words. */
export async function requireRoom(folder: string, bytes = 0): Promise<void> {
  if (!(await hasRoom(folder, bytes))) throw new DiskFullError()
}

export async function hasRoom(folder: string, bytes = 0): Promise<boolean> {
  const { free, all } = await roomOn(folder)
  return all === 0 || free - bytes >= Math.min(KEPT_BYTES, KEPT_SHARE * all)
}

/** Of the system (ENOSPC), of the database (PostgreSQL's documentation, appendix A: 53100), or of a media tool's own words. */
export function isDiskFull(cause: unknown): boolean {
  for (let one = cause; one instanceof Error; one = one.cause) {
    const { code } = one as NodeJS.ErrnoException
    if (one instanceof DiskFullError || code === 'ENOSPC' || code === '53100') return true
    if (one instanceof MediaError && /no space left on device/i.test(one.message)) return true
  }
  return false
}

/** Told while there is still time; null while there is room enough. */
export async function roomWarning(folder: string): Promise<string | null> {
  const room = await roomOn(folder)
  return isLow(room)
    ? `Only ${(room.free / 2 ** 30).toFixed(1)} GB are free on the disk. Empty the bin, delete versions, or move the data folder to a larger disk: when it is full, nothing more can be brought in or rendered.`
    : null
}
