/** What a fill has gathered, as bytes that any worker can read again: a short text that tells what follows, then its arrays. */
import { z } from 'zod'
import type { FillResult } from '../fill/method'

type Gathered = Extract<FillResult, { ok: true }>

const MAGIC = 0x46474731 // "FGG1"
const HEAD_WORDS = 2

const headSchema = z.strictObject({
  values: z.int().min(0),
  entries: z.int().min(0),
  hasNeeded: z.boolean(),
  report: z
    .strictObject({
      seenShare: z.number(),
      unseenWidePx: z.number(),
      ghostShare: z.number(),
      registrationSure: z.number(),
      frames: z.number(),
      grainDeviations: z.array(z.number()).nullable(),
    })
    .nullable(),
})

export function packFill({ values, grainKept, needed, gathered }: Gathered): Uint8Array<ArrayBuffer> {
  const { seen, from, ...report } = gathered ?? { seen: null, from: null }
  const head = asBytes(
    JSON.stringify({
      values: values.length,
      entries: grainKept.length,
      hasNeeded: needed !== undefined,
      report: gathered ? report : null,
    }),
  )
  const headBytes = 4 * Math.ceil(head.length / 4)
  const parts = [values, grainKept, ...(needed ? [needed] : []), ...(seen && from ? [seen, from] : [])]
  const out = new Uint8Array(
    4 * HEAD_WORDS + headBytes + parts.reduce((sum, part) => sum + part.byteLength, 0),
  ).fill(0x20, 4 * HEAD_WORDS)
  new Uint32Array(out.buffer, 0, HEAD_WORDS).set([MAGIC, headBytes])
  out.set(head, 4 * HEAD_WORDS)
  let at = 4 * HEAD_WORDS + headBytes
  for (const part of parts) {
    out.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength), at)
    at += part.byteLength
  }
  return out
}

/** @returns null when the bytes are not what `packFill` makes: a file that was cut off is as good as none. */
export function unpackFill(bytes: Uint8Array): Gathered | null {
  if (bytes.byteLength < 4 * HEAD_WORDS) return null
  const { buffer } = bytes.byteOffset % 4 === 0 ? bytes : bytes.slice()
  const start = bytes.byteOffset % 4 === 0 ? bytes.byteOffset : 0
  const [magic, headBytes] = new Uint32Array(buffer, start, HEAD_WORDS) as unknown as [number, number]
  if (magic !== MAGIC || headBytes % 4 !== 0 || 4 * HEAD_WORDS + headBytes > bytes.byteLength) return null
  const head = headOf(String.fromCharCode(...new Uint8Array(buffer, start + 4 * HEAD_WORDS, headBytes)))
  if (!head) return null
  const { values, entries, hasNeeded, report } = head
  const words = values + entries + (hasNeeded ? entries : 0) + (report ? 2 * entries : 0)
  if (4 * (HEAD_WORDS + words) + headBytes !== bytes.byteLength) return null
  let at = start + 4 * HEAD_WORDS + headBytes
  const next = <T>(make: (from: number) => T, count: number): T => {
    const part = make(at)
    at += 4 * count
    return part
  }
  const floats = (count: number) => next((from) => new Float32Array(buffer, from, count), count)
  return {
    ok: true,
    values: floats(values),
    grainKept: floats(entries),
    ...(hasNeeded ? { needed: floats(entries) } : {}),
    ...(report
      ? {
          gathered: {
            ...report,
            seen: floats(entries),
            from: next((from) => new Int32Array(buffer, from, entries), entries),
          },
        }
      : {}),
  }
}

/** Numbers and names of our own: each character is one byte. */
const asBytes = (text: string): Uint8Array => Uint8Array.from(text, (one) => one.charCodeAt(0))

function headOf(text: string) {
  try {
    const head = headSchema.safeParse(JSON.parse(text))
    return head.success ? head.data : null
  } catch {
    return null // not ours: gathered anew
  }
}
