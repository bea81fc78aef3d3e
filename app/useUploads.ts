/** Sending dropped files to the server, with progress, rate, time left and cancel. */
import { useCallback, useRef, useState } from 'react'
import { v4 as newId } from 'uuid'
import type { FrameRate } from '../core/time'
import { isVideo } from '../core/jobs/footage'
import { sizeWords } from '../workbench/progress/progress'

export type Upload =
  | {
      readonly key: string
      readonly name: string
      readonly state: 'sending'
      readonly importId: string | null
      readonly sentBytes: number
      readonly totalBytes: number
      readonly words: string
    }
  | {
      readonly key: string
      readonly name: string
      readonly state: 'failed'
      readonly importId: string | null
      readonly message: string
    }

class UploadFailure extends Error {}

export function useUploads() {
  const [uploads, setUploads] = useState<readonly Upload[]>([])
  const stops = useRef(new Map<string, AbortController>())
  const put = useCallback(
    (upload: Upload) => setUploads((all) => [...all.filter((one) => one.key !== upload.key), upload]),
    [],
  )
  const dismiss = useCallback((key: string) => setUploads((all) => all.filter((one) => one.key !== key)), [])

  const beginOne = useCallback(
    async (files: readonly File[], frameRate: FrameRate) => {
      const key = newId()
      const name = files.length === 1 ? files[0]!.name : `${files.length} files`
      const totalBytes = files.reduce((sum, file) => sum + file.size, 0)
      const stop = new AbortController()
      stops.current.set(key, stop)
      const begun = performance.now()
      let importId: string | null = null
      const show = (sentBytes: number) => {
        const seconds = (performance.now() - begun) / 1000
        const rate = seconds > 0.2 ? sentBytes / seconds : 0
        const left =
          rate > 0 ? ` · ${sizeWords(rate)}/s · ${Math.ceil((totalBytes - sentBytes) / rate)} s left` : ''
        put({
          key,
          name,
          state: 'sending',
          importId,
          sentBytes,
          totalBytes,
          words: `sending ${sizeWords(sentBytes)} of ${sizeWords(totalBytes)}${left}`,
        })
      }
      try {
        show(0)
        const answer = await postJson('/imports', {
          files: files.map((file) => ({ name: file.name, sizeBytes: file.size })),
          frameRate,
        })
        importId = answer['importId'] as string
        // The server sorts numbered pictures by their numbers; it is told which is which by that order.
        const ordered = inServerOrder(files)
        let sent = 0
        for (const [index, file] of ordered.entries()) {
          await sendFile(
            `/imports/${importId}/files/${index}`,
            file,
            (bytes) => show(sent + bytes),
            stop.signal,
          )
          sent += file.size
        }
        await postJson(`/imports/${importId}`, {})
        dismiss(key)
      } catch (cause) {
        if (importId) await fetch(`/imports/${importId}`, { method: 'DELETE' }).catch(() => undefined)
        if (stop.signal.aborted) return dismiss(key)
        const message =
          cause instanceof UploadFailure
            ? cause.message
            : 'The server could not be reached. Nothing was brought in. Drop it again.'
        put({ key, name, state: 'failed', importId, message })
      } finally {
        stops.current.delete(key)
      }
    },
    [dismiss, put],
  )

  const begin = useCallback(
    async (dropped: readonly File[], frameRate: FrameRate) => {
      for (const files of shotsIn(dropped)) await beginOne(files, frameRate)
    },
    [beginOne],
  )
  const cancel = useCallback((key: string) => stops.current.get(key)?.abort(), [])
  return { uploads, begin, cancel, dismiss }
}

/** What was dropped, as shots: each video is one; anything else is sorted out by the server. */
export function shotsIn(dropped: readonly File[]): readonly (readonly File[])[] {
  const files = dropped.filter((file) => !file.name.startsWith('.'))
  return files.length > 1 && files.every(({ name }) => isVideo(name)) ? files.map((file) => [file]) : [files]
}

/** Numbered pictures in the order of their numbers; the number stands right before the ending. */
function inServerOrder(files: readonly File[]): File[] {
  const numberOf = (file: File) => Number(/(\d+)\.[^.]+$/.exec(file.name)?.[1] ?? 0)
  return [...files].sort((a, b) => numberOf(a) - numberOf(b))
}

async function postJson(url: string, body: unknown): Promise<Record<string, unknown>> {
  const response = await fetch(url, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  })
  const answer = (await response.json().catch(() => ({}))) as Record<string, unknown>
  if (!response.ok)
    throw new UploadFailure(
      typeof answer['message'] === 'string' ? answer['message'] : `The server answered ${response.status}.`,
    )
  return answer
}

/** fetch tells nothing about how much was sent; XMLHttpRequest does. */
function sendFile(
  url: string,
  file: File,
  onSent: (bytes: number) => void,
  signal: AbortSignal,
): Promise<void> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('PUT', url)
    request.upload.onprogress = (event) => onSent(event.loaded)
    request.onload = () => {
      if (request.status < 300) return resolve()
      const { message } = JSON.parse(request.responseText || '{}') as { message?: string }
      reject(new UploadFailure(message ?? `The server answered ${request.status}.`))
    }
    request.onerror = () => reject(new Error('connection lost'))
    request.onabort = () => reject(new Error('stopped'))
    signal.addEventListener('abort', () => request.abort(), { once: true })
    if (signal.aborted) return reject(new Error('stopped'))
    request.send(file)
  })
}
