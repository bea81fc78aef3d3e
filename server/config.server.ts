/** Where the server keeps things and how it is reached, from the environment. Read once at start. */
import { resolve } from 'node:path'
import { z } from 'zod'

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '::1'])

const environment = z.object({
  FILLAGRANT_DATA: z.string().min(1).optional(),
  DATABASE_URL: z.string().min(1).optional(),
  FILLAGRANT_HOST: z.string().min(1).default('127.0.0.1'),
  FILLAGRANT_PORT: z.coerce.number().int().min(1).max(65535).default(4380),
  FILLAGRANT_PASSWORD: z.string().min(1).optional(),
  FILLAGRANT_PG_PORT: z.coerce.number().int().min(1).max(65535).default(55431),
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
    throw new Error(`FILLAGRANT_HOST is ${settings.FILLAGRANT_HOST}: set FILLAGRANT_PASSWORD too, or leave the host on 127.0.0.1.`)
  }
  return {
    dataDir: resolve(settings.FILLAGRANT_DATA ?? '.data'),
    databaseUrl: settings.DATABASE_URL ?? `postgres://fillagrant@127.0.0.1:${settings.FILLAGRANT_PG_PORT}/fillagrant`,
    host: settings.FILLAGRANT_HOST,
    port: settings.FILLAGRANT_PORT,
    password: settings.FILLAGRANT_PASSWORD,
    isLoopback,
  }
}
