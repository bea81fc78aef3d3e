/** News between processes: who changes something says so, and every open page hears of it. */
import pg from 'pg'
import { sql } from 'drizzle-orm'
import { z } from 'zod'
import { readConfig } from './config.server'
import type { Database, Transaction } from './db/client.server'
import { log } from './log.server'

const CHANNEL = 'fillagrant'

const newsSchema = z.object({ kind: z.enum(['import', 'version', 'shot']), id: z.string() })
export type News = z.output<typeof newsSchema>

/** Tells everyone; inside a transaction, once it is committed. */
export async function announce(db: Database | Transaction, news: News): Promise<void> {
  await db.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(news)})`)
}

const listeners = new Set<(news: News) => void>()
let listening: Promise<void> | undefined
const RETRY_MS = 1000

async function listen(): Promise<void> {
  const client = new pg.Client({ connectionString: readConfig().databaseUrl })
  const again = () => setTimeout(() => void listen().catch(() => again()), RETRY_MS)
  client.on('error', (cause) => {
    log.warn({ err: cause }, 'the news connection was lost; it is opened again')
    void client.end().catch(() => undefined)
    again()
  })
  client.on('notification', ({ payload }) => {
    const news = newsSchema.safeParse(JSON.parse(payload ?? 'null'))
    if (news.success) for (const tell of listeners) tell(news.data)
  })
  await client.connect()
  await client.query(`listen ${CHANNEL}`)
}

/** Hears all news from now on. @returns How to stop. */
export function subscribe(tell: (news: News) => void): () => void {
  listeners.add(tell)
  listening ??= listen().catch((cause: unknown) => {
    listening = undefined
    log.warn({ err: cause }, 'news cannot be heard')
  })
  return () => void listeners.delete(tell)
}
