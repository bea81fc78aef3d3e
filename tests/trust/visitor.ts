/** Whoever works on an installation over HTTP, as the pages do: brings footage in, mends, has versions made. */
import { execFileSync } from 'node:child_process'
import { createHash, randomUUID } from 'node:crypto'
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { MendRecord } from '../../core/document/mend'
import { sampleMend } from '../fixtures/sampleMend'

export interface Footage {
  readonly bytes: Buffer
  readonly frames: number
}

/** A film that is different on every frame. */
export function paintFilm(frames: number, size = '320x180'): Footage {
  const folder = mkdtempSync(join(tmpdir(), 'fillagrant-film-'))
  try {
    const film = join(folder, 'film.mkv')
    execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', `testsrc2=size=${size}:rate=24`, '-frames:v', String(frames), '-c:v', 'ffv1', film]) // prettier-ignore
    return { bytes: readFileSync(film), frames }
  } finally {
    rmSync(folder, { recursive: true })
  }
}

export interface Answer {
  readonly ok: boolean
  readonly status: number
  readonly text: string
}

export class Visitor {
  readonly #url: string
  readonly #footage: Footage
  #revision = 0
  #mend: MendRecord | null = null
  /** Edits that were acknowledged, in order. */
  readonly acknowledged: string[] = []

  constructor(url: string, footage: Footage) {
    this.#url = url
    this.#footage = footage
  }

  /** null where there was no whole answer: nothing is acknowledged then. */
  async post(path: string, body: unknown, type = 'application/json'): Promise<Answer | null> {
    try {
      const response = await fetch(this.#url + path, {
        method: 'POST',
        headers: { Origin: this.#url, 'Content-Type': type },
        body: body instanceof Uint8Array ? new Uint8Array(body) : typeof body === 'string' ? body : JSON.stringify(body), // prettier-ignore
        signal: AbortSignal.timeout(20_000),
      })
      return { ok: response.ok, status: response.status, text: await response.text() }
    } catch {
      return null
    }
  }

  /** @returns The import's id, or null where it was not taken. */
  async bringIn(): Promise<string | null> {
    const { bytes } = this.#footage
    const answer = await this.post('/imports', { files: [{ name: 'film.mkv', sizeBytes: bytes.length }], frameRate: { num: 24, den: 1 } }) // prettier-ignore
    if (!answer?.ok) return null
    const { importId } = JSON.parse(answer.text) as { importId: string }
    if (!(await this.post(`/imports/${importId}/files/0`, bytes, 'application/octet-stream'))?.ok) return null
    return (await this.post(`/imports/${importId}`, {}))?.ok ? importId : null
  }

  /** Adds the shot's mend, then names it anew each time; under one id until it is acknowledged. @returns That id; null where `isOver` says so first. */
  async mend(shotId: string, isOver: () => boolean = () => false): Promise<string | null> {
    const editId = randomUUID()
    const before = this.#mend
    const after = { ...(before ?? { ...sampleMend({ id: randomUUID() }), stackIndex: 0 }), name: `Named ${this.acknowledged.length}` } // prettier-ignore
    const body = { editId, role: 'do', targetId: null, edit: { label: 'Name', changes: [{ id: after.id, before, after }], tracks: [] } } // prettier-ignore
    while (!isOver()) {
      const answer = await this.post(`/shots/${shotId}/edits`, { ...body, baseRevision: this.#revision })
      if (answer?.ok) {
        this.#revision = (JSON.parse(answer.text) as { revision: number }).revision
        this.#mend = after
        this.acknowledged.push(editId)
        return editId
      }
      if (answer && answer.status < 500 && answer.status !== 409)
        throw new Error(`An edit was refused: ${answer.text}`)
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    return null
  }

  makeVersion(shotId: string): Promise<Answer | null> {
    const form = new URLSearchParams({ intent: 'make', format: 'png', firstFrame: '1001', lastFrame: String(1000 + this.#footage.frames) }).toString() // prettier-ignore
    return this.post(`/shots/${shotId}/handover.data`, form, 'application/x-www-form-urlencoded')
  }

  scan(shotId: string): Promise<Answer | null> {
    return this.post(`/shots/${shotId}/survey/state`, {})
  }
}

/** Names and bytes of a folder's files as one number. */
export function hashOfFolder(folder: string): string {
  const hash = createHash('sha256')
  for (const name of readdirSync(folder).sort()) hash.update(name).update(readFileSync(join(folder, name)))
  return hash.digest('hex')
}
