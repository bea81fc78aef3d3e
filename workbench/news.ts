/** One stream of news for the whole page: a browser has six connections, and each part that listens must not take one. */
import { newsSchema, type News, type NewsKind } from '../core/jobs/news'

interface Listener {
  readonly kinds: readonly NewsKind[]
  onNews(news: News): void
  /** The connection stands, perhaps again: news may have been missed. */
  onOpen(): void
}

const listeners = new Set<Listener>()
let source: EventSource | null = null
let isOpen = false

/** Who can be reached: the server and its database; not the database; not even the server. */
export type Reach = 'all' | 'no-database' | 'no-server'
let reach: Reach = 'all'
const watchers = new Set<() => void>()

function setReach(next: Reach): void {
  if (next === reach) return
  reach = next
  for (const tell of watchers) tell()
}

/** For `useSyncExternalStore`; tells only while somebody hears news. */
export const reachOfServer = {
  now: (): Reach => reach,
  watch(tell: () => void): () => void {
    watchers.add(tell)
    return () => void watchers.delete(tell)
  },
}

const KINDS = newsSchema.shape.kind.options

function open(): EventSource {
  const opened = new EventSource('/events')
  for (const kind of KINDS) {
    opened.addEventListener(kind, (event: MessageEvent<string>) => {
      const news = newsSchema.parse(JSON.parse(event.data))
      for (const listener of listeners) if (listener.kinds.includes(kind)) listener.onNews(news)
    })
  }
  opened.addEventListener('open', () => {
    isOpen = true
    setReach('all')
    for (const listener of listeners) listener.onOpen()
  })
  opened.addEventListener('database', (event: MessageEvent<string>) =>
    setReach(event.data === 'there' ? 'all' : 'no-database'),
  )
  opened.addEventListener('error', () => {
    isOpen = false
    setReach('no-server')
    // The browser tries again by itself, but not after an answer that is no stream.
    if (opened.readyState === EventSource.CLOSED) setTimeout(reopen, RETRY_MS, opened)
  })
  return opened
}

const RETRY_MS = 2000

function reopen(ended: EventSource): void {
  if (source === ended) source = open()
}

/** Hears news of some kinds. @returns How to stop. */
export function hearNews(listener: Listener): () => void {
  listeners.add(listener)
  source ??= open()
  if (isOpen) listener.onOpen()
  return () => {
    listeners.delete(listener)
    if (listeners.size > 0) return
    source?.close()
    source = null
    isOpen = false
  }
}
