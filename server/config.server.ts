/** Where the server keeps things and how it is reached, from the environment. Read once at start. */
import { readFileSync } from 'node:fs'
import { isIP } from 'node:net'
import { join, resolve } from 'node:path'
import { z } from 'zod'

const environment = z.object({
  FILLAGRANT_DATA: z.string().min(1).optional(),
  DATABASE_URL: z.string().min(1).optional(),
  FILLAGRANT_HOST: z.string().min(1).default('127.0.0.1'),
  FILLAGRANT_PORT: z.coerce.number().int().min(1).max(65535).default(4380),
  FILLAGRANT_PUBLIC_URL: z.url({ protocol: /^https?$/ }).optional(),
})

export interface Config {
  readonly dataDir: string
  readonly databaseUrl: string
  readonly host: string
  readonly port: number
  /** The address that people type, where a proxy stands before us; without a path. */
  readonly publicUrl: URL | null
  readonly isLoopback: boolean
  /** Reached by others than this machine's own users: everybody signs in. */
  readonly needsSignIn: boolean
}

/** 127.0.0.0/8 is loopback as a whole (RFC 1122, 3.2.1.3), and ::1 (RFC 4291). */
export const isLoopbackName = (name: string): boolean =>
  name === 'localhost' || name === '::1' || (isIP(name) === 4 && name.startsWith('127.'))

/** @throws Error in words when a setting cannot be used. */
export function readConfig(env: NodeJS.ProcessEnv = process.env): Config {
  const result = environment.safeParse(env)
  if (!result.success) {
    const [issue] = result.error.issues
    throw new Error(`The setting ${issue?.path.join('.')} cannot be used: ${issue?.message}`)
  }
  const settings = result.data
  const isLoopback = isLoopbackName(settings.FILLAGRANT_HOST)
  const publicUrl = settings.FILLAGRANT_PUBLIC_URL ? new URL(settings.FILLAGRANT_PUBLIC_URL) : null
  const dataDir = resolve(settings.FILLAGRANT_DATA ?? '.data')
  return {
    dataDir,
    databaseUrl: settings.DATABASE_URL ?? readDatabaseAddress(dataDir),
    host: settings.FILLAGRANT_HOST,
    port: settings.FILLAGRANT_PORT,
    publicUrl,
    isLoopback,
    needsSignIn: !isLoopback || publicUrl !== null,
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
