/** Where the server keeps things and how it is reached, from the environment. Read once at start. */
import { readFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { z } from 'zod'

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '::1'])

const environment = z.object({
  FILLAGRANT_DATA: z.string().min(1).optional(),
  DATABASE_URL: z.string().min(1).optional(),
  FILLAGRANT_HOST: z.string().min(1).default('127.0.0.1'),
  FILLAGRANT_PORT: z.coerce.number().int().min(1).max(65535).default(4380),
  FILLAGRANT_PASSWORD: z.string().min(1).optional(),
})

export interface Config {
  readonly dataDir: string
  readonly databaseUrl: string
  readonly host: string
  readonly port: number
  readonly password: string | undefined
  readonly isLoopback: boolean
}

/** @throws Error in words when a setting is missing or off loopback has no password. */
export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const result = environment.safeParse(env)
  if (!result.success) {
    const [issue] = result.error.issues
    throw new Error(`The setting ${issue?.path.join('.')} cannot be used: ${issue?.message}`)
  }
  const settings = result.data
  const isLoopback = LOOPBACK.has(settings.FILLAGRANT_HOST)
  if (!isLoopback && !settings.FILLAGRANT_PASSWORD) {
    throw new Error(
      `FILLAGRANT_HOST is ${settings.FILLAGRANT_HOST}: set FILLAGRANT_PASSWORD too, or leave the host on 127.0.0.1.`,
    )
  }
  const dataDir = resolve(settings.FILLAGRANT_DATA ?? '.data')
  return {
    dataDir,
    databaseUrl: settings.DATABASE_URL ?? readDatabaseAddress(dataDir),
    host: settings.FILLAGRANT_HOST,
    port: settings.FILLAGRANT_PORT,
    password: settings.FILLAGRANT_PASSWORD,
    isLoopback,
  }
}

/** The address that `npm start` has left for workers and commands started by hand. */
function readDatabaseAddress(dataDir: string): string {
  try {
    return readFileSync(join(dataDir, 'database-url'), 'utf8')
  } catch (cause) {
    throw new Error(
      `DATABASE_URL is not set and ${dataDir} has no running database. Run npm start first, or set DATABASE_URL.`,
      { cause },
    )
  }
}
