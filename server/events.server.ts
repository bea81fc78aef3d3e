/** News between processes: who changes something says so, and every open page hears of it. */
import pg from 'pg'
import { sql } from 'drizzle-orm'
import { newsSchema, type News } from '../core/jobs/news'
import { readConfig } from './config.server'
import type { Database, Transaction } from './db/client.server'
import { log } from './log.server'

const CHANNEL = 'fillagrant'

/** Tells everyone; inside a transaction, once it is committed. */
export async function announce(db: Database | Transaction, news: News): Promise<void> {
  await db.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(news)})`)
}

export interface NewsListener {
  onNews(news: News): void
  /** Whether the database is there; told at once as it is now, then whenever that changes. */
  onDatabase(isThere: boolean): void
}

const listeners = new Set<NewsListener>()
let isThere = true

function setThere(next: boolean): void {
  if (next === isThere) return
  isThere = next
  for (const listener of listeners) listener.onDatabase(next)
}
const RETRY_MS = 1000

/** The open connection, or the wait for the next one; null while nobody listens. */
let stopListening: (() => void) | null = null

/** Keeps one connection open for all listeners, anew after a break, until it is stopped. */
function startListening(): () => void {
  let client: pg.Client | null = null
  let retry: ReturnType<typeof setTimeout> | undefined
  let isStopped = false
  const drop = () => {
    const lost = client
    client = null
    if (!isStopped) setThere(false)
    void lost?.end().catch(() => undefined)
    if (!isStopped && lost) retry = setTimeout(connect, RETRY_MS)
  }
  const connect = () => {
    const fresh = new pg.Client({ connectionString: readConfig().databaseUrl })
    client = fresh
    fresh.on('error', (cause) => {
      log.warn({ err: cause }, 'the news connection was lost; it is opened again')
      if (client === fresh) drop()
    })
    fresh.on('notification', ({ payload }) => {
      const news = newsSchema.safeParse(JSON.parse(payload ?? 'null'))
      if (news.success) for (const listener of listeners) listener.onNews(news.data)
    })
    fresh
      .connect()
      .then(() => fresh.query(`listen ${CHANNEL}`))
      .then(() => setThere(true))
      .catch((cause: unknown) => {
        if (!isStopped) log.warn({ err: cause }, 'news cannot be heard; tried again')
        if (client === fresh) drop()
      })
  }
  connect()
  return () => {
    isStopped = true
    clearTimeout(retry)
    drop()
  }
}

/** Hears all news from now on. @returns How to stop. */
export function subscribe(listener: NewsListener): () => void {
  listeners.add(listener)
  stopListening ??= startListening()
  listener.onDatabase(isThere)
  return () => {
    listeners.delete(listener)
    if (listeners.size > 0) return
    stopListening?.()
    stopListening = null
    isThere = true // asked anew by the next who listens
  }
}
