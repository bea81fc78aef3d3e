/** The parts of a running server, put together once for each process. */
import { join } from 'node:path'
import { LRUCache } from 'lru-cache'
import { readConfig } from './config.server'
import { database, type DatabaseClient } from './db/client.server'
import { coreStamp } from './results/coreStamp.server'
import { createDirectoryStore, type FrameStore } from './frames/store.server'
import type { ServedPlate } from './plateFrames.server'

export interface ServerContext {
  readonly database: DatabaseClient
  readonly frames: FrameStore
  readonly folders: Folders
  /** Plates that were asked for lately. */
  readonly plates: LRUCache<string, ServedPlate>
}

const MAX_PLATES = 200

/** @param dataDir  Where everything but the database lies. */
export function contextOf(client: DatabaseClient, dataDir: string): ServerContext {
  const folders = foldersIn(dataDir)
  return {
    database: client,
    frames: createDirectoryStore(folders.frames),
    folders,
    plates: new LRUCache({ max: MAX_PLATES }),
  }
}

export interface Folders {
  readonly frames: string
  readonly uploads: string
  readonly versions: string
  readonly mattes: string
  readonly marks: string
  /** Stills, mattes and marks that were deleted and can be put back. */
  readonly bin: string
  /** Pictures of whole clips, made by surveys. */
  readonly looks: string
  /** Finished rectangles, made by this core. */
  readonly results: string
}

export const foldersIn = (dataDir: string): Folders => ({
  frames: join(dataDir, 'frames'),
  uploads: join(dataDir, 'uploads'),
  versions: join(dataDir, 'versions'),
  mattes: join(dataDir, 'mattes'),
  marks: join(dataDir, 'marks'),
  bin: join(dataDir, 'bin'),
  looks: join(dataDir, 'looks'),
  results: join(dataDir, 'results', coreStamp()),
})

let shared: ServerContext | undefined

export function serverContext(): ServerContext {
  shared ??= contextOf(database(), readConfig().dataDir)
  return shared
}
