import { Transform } from 'node:stream'
import { MediaError } from './mediaError'

/** Passes bytes on until there are more than may be; then it fails, in words. */
export function boundedTo(mostBytes: number, words: string): Transform {
  let received = 0
  return new Transform({
    transform(chunk: Buffer, _encoding, done) {
      received += chunk.length
      if (received > mostBytes) done(new MediaError('too-large', words))
      else done(null, chunk)
    },
  })
}
