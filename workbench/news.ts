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
    for (const listener of listeners) listener.onOpen()
  })
  opened.addEventListener('error', () => (isOpen = false)) // it opens again by itself
  return opened
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
