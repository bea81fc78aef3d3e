/**
 * Sends edits to the server, one after the other, until each is acknowledged.
 *
 * An edit carries an id of its own, so sending it again after a broken connection stores it once.
 * When somebody else was faster, their edits are taken in and ours follow, if they still fit.
 */
import type { HistoryEntry, HistoryStep } from '../../core/document/history'
import type { PackedEdit } from '../../core/document/packedEdit'

export type SaveState = 'saved' | 'saving' | 'offline'

export interface SaveQueueOptions {
  readonly url: string
  readonly revision: number
  readonly onState: (state: SaveState) => void
  /** Others' edits, to be applied below ours. Returns whether each of ours still fits on top. */
  readonly onNewer: (newer: readonly HistoryEntry[], ours: readonly PackedEdit[]) => boolean
  /** Edits that cannot be stored, and why: the first, and those after it, which stand on it. */
  readonly onRefused: (edits: readonly PackedEdit[], message: string) => void
  readonly fetch?: typeof fetch
  readonly wait?: (ms: number) => Promise<void>
}

/** What an edit changes is worked out and shown first: writing it down takes the same cores. */
const REST_MS = 300
const FIRST_RETRY_MS = 500
const LAST_RETRY_MS = 10_000
/** Some two minutes of trying. */
const MOST_FAILURES = 15

export class SaveQueue {
  readonly #options: Required<SaveQueueOptions>
  readonly #pending: HistoryStep[] = []
  #revision: number
  #isSending = false
  /** How often the server has failed over the first one, without being away. */
  #failures = 0
  #endRest: () => void = () => undefined
  #waiting: (() => void)[] = []

  constructor(options: SaveQueueOptions) {
    this.#options = {
      fetch: (...args) => fetch(...args),
      wait: (ms) => new Promise((resolve) => setTimeout(resolve, ms)),
      ...options,
    }
    this.#revision = options.revision
  }

  get hasPending(): boolean {
    return this.#pending.length > 0
  }

  /** The shot's revision that all edits which are stored have come to. */
  get revision(): number {
    return this.#revision
  }

  /** Sends what rests, and settles once every edit is stored. */
  async whenSaved(): Promise<void> {
    this.hurry()
    if (this.#isSending) await new Promise<void>((resolve) => this.#waiting.push(resolve))
  }

  /** What rests is sent at once: the page is being left. */
  hurry(): void {
    this.#endRest()
  }

  add(step: HistoryStep): void {
    this.#pending.push(step)
    if (!this.#isSending) void this.#send()
  }

  async #send(): Promise<void> {
    const { onState, wait } = this.#options
    this.#isSending = true
    onState('saving')
    await Promise.race([wait(REST_MS), new Promise<void>((resolve) => (this.#endRest = resolve))])
    let retryMs = FIRST_RETRY_MS
    while (this.#pending.length > 0) {
      const outcome = await this.#sendFirst()
      if (outcome === 'again') {
        onState('offline')
        await wait(retryMs)
        retryMs = Math.min(retryMs * 2, LAST_RETRY_MS)
        continue
      }
      retryMs = FIRST_RETRY_MS
      if (this.#pending.length > 0) onState('saving')
    }
    this.#isSending = false
    onState('saved')
    for (const tell of this.#waiting.splice(0)) tell()
  }

  async #sendFirst(): Promise<'done' | 'again'> {
    const { url, onNewer } = this.#options
    const first = this.#pending[0]!
    let response: Response
    try {
      response = await this.#options.fetch(url, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ ...first, baseRevision: this.#revision }),
      })
    } catch {
      return 'again' // no answer: it may or may not be stored, the id tells next time
    }
    if (response.ok) {
      this.#revision = ((await response.json()) as { revision: number }).revision
      this.#pending.shift()
      this.#failures = 0
      return 'done'
    }
    if (response.status === 409) {
      const { revision, newer } = (await response.json()) as { revision: number; newer: HistoryEntry[] }
      this.#revision = revision
      const ours = this.#pending.map(({ edit }) => edit)
      if (!onNewer(newer, ours))
        this.#refuseAll('Somebody else changed the same mend meanwhile; theirs was kept.')
      return 'done'
    }
    // Trouble passes, such as a database that is being started again; an edit that breaks the server each time does not.
    this.#failures = response.status === 500 ? this.#failures + 1 : 0
    if (response.status >= 500 && this.#failures < MOST_FAILURES) return 'again'
    const { message = `The server answered ${response.status}.` } = (await response
      .json()
      .catch(() => ({}))) as { message?: string }
    this.#refuseAll(message)
    return 'done'
  }

  #refuseAll(message: string): void {
    this.#options.onRefused(
      this.#pending.splice(0).map(({ edit }) => edit),
      message,
    )
  }
}
