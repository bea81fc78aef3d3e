/** The body of an order, as JSON. */

/** A sensor map with 20 000 bad pixels has some 2 MB. */
const MAX_BYTES = 8 * 2 ** 20

/** @returns What was sent; null where that is no JSON, or too much: no schema of an order takes it. */
export async function readCommand(request: Request): Promise<unknown> {
  if (Number(request.headers.get('content-length') ?? 0) > MAX_BYTES) return null
  const text = await request.text()
  if (text.length > MAX_BYTES) return null
  try {
    return JSON.parse(text)
  } catch {
    return null // said by the schema, which takes no null
  }
}
