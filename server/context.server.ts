/** The parts of a running server, put together once for each process. */
import { join } from 'node:path'
import { readConfig } from './config.server'
import { database, type DatabaseClient } from './db/client.server'
import { coreStamp } from './results/coreStamp.server'
import { createDirectoryStore, type FrameStore } from './frames/store.server'

export interface ServerContext {
  readonly database: DatabaseClient
  readonly frames: FrameStore
  readonly folders: Folders
}

export interface Folders {
  readonly frames: string
  readonly uploads: string
  readonly versions: string
  readonly mattes: string
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
  looks: join(dataDir, 'looks'),
  results: join(dataDir, 'results', coreStamp()),
})

let shared: ServerContext | undefined

export function serverContext(): ServerContext {
  if (!shared) {
    const folders = foldersIn(readConfig().dataDir)
    shared = { database: database(), frames: createDirectoryStore(folders.frames), folders }
  }
  return shared
}
