/** Footage that cannot be used. The message is for people: which file, what is wrong, what to do. */
export class MediaError extends Error {
  override readonly name = 'MediaError'
  readonly code:
    | 'unreadable'
    | 'unsupported'
    | 'truncated'
    | 'damaged'
    | 'too-large'
    | 'uneven'
    | 'stopped'
    | 'cannot-write'
  constructor(code: MediaError['code'], message: string, options?: { cause?: unknown }) {
    super(message, options)
    this.code = code
  }
}
