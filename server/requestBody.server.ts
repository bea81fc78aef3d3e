/** The body of a request, read no further than it may be long. */

/** A sensor map with 20 000 bad pixels has some 2 MB. */
export const ORDER_BYTES = 8 * 2 ** 20
/** So much of what is refused is still taken off the line: an answer before the end of a request breaks the connection. */
const DRAINED_BYTES = 256 * 2 ** 20

/** Whoever asked is told in words. */
export const refusal = (status: number, message: string): Response => Response.json({ message }, { status })

/** @throws Response 413 in words when there are more bytes. Memory: `mostBytes`. */
export async function readBytes(request: Request, mostBytes: number): Promise<Buffer<ArrayBuffer>> {
  const chunks: Uint8Array[] = []
  let length = 0
  const reader = request.body?.getReader()
  for (let read = await reader?.read(); read && !read.done; read = await reader?.read()) {
    length += read.value.length
    if (length <= mostBytes) chunks.push(read.value)
    else chunks.length = 0
    if (length > mostBytes + DRAINED_BYTES) break
  }
  if (length <= mostBytes) return Buffer.concat(chunks)
  await reader?.cancel()
  throw refusal(413, `This is too much at once: at most ${mostBytes / 2 ** 20} MB. Nothing was kept of it.`)
}

/** @throws Response 400 or 413 in words when it is no JSON, holds text that cannot be stored, or is too much. */
export async function readJson(request: Request, mostBytes = ORDER_BYTES): Promise<unknown> {
  const text = (await readBytes(request, mostBytes)).toString('utf8')
  let value: unknown
  try {
    value = JSON.parse(text)
  } catch {
    throw refusal(400, 'This is not JSON. Nothing was changed.')
  }
  if (!isStorable(value))
    throw refusal(
      400,
      'This holds a character that cannot be stored (an empty one, or half of a sign), or lists within lists without end. Nothing was changed. Write it anew.',
    )
  return value
}

/** The body of an order: as JSON; null where it is none, which no schema of an order takes. @throws Response 400 or 413 in words. */
export async function readCommand(request: Request): Promise<unknown> {
  try {
    return await readJson(request)
  } catch (cause) {
    if (cause instanceof Response && cause.status === 400) return null
    throw cause
  }
}

/** Nothing of ours is nested nearly so deep. */
const MOST_DEPTH = 100

/** Whether the database can hold every text in it: no NUL, no lone half of a surrogate pair (PostgreSQL's documentation, 8.14). */
export function isStorable(value: unknown, depth = 0): boolean {
  if (depth > MOST_DEPTH) return false
  if (typeof value === 'string') return !value.includes('\0') && value.isWellFormed()
  if (Array.isArray(value)) return value.every((one) => isStorable(one, depth + 1))
  if (typeof value === 'object' && value !== null)
    return Object.entries(value).every(([name, one]) => isStorable(name) && isStorable(one, depth + 1))
  return true
}

const NAME_LENGTH = 255

/** What the user calls the file that a request brings (`?name=`); for messages alone. */
export function shownNameIn(request: Request): string {
  const name = new URL(request.url).searchParams.get('name') ?? ''
  return name !== '' && isStorable(name) ? name.slice(0, NAME_LENGTH) : 'This picture'
}
