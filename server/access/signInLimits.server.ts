/** How often a name, and an address, may be wrong: guessing is slow and is told in the log. */
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible'
import { log } from '../log.server'

const WINDOW_SECONDS = 15 * 60
const LIMITS = {
  name: new RateLimiterMemory({ points: 10, duration: WINDOW_SECONDS, blockDuration: WINDOW_SECONDS }),
  address: new RateLimiterMemory({ points: 50, duration: WINDOW_SECONDS, blockDuration: WINDOW_SECONDS }),
}

/** Counts a try before it is looked at. @returns How long to wait, seconds; 0 where it may be tried now. */
export async function waitBefore(name: string, address: string): Promise<number> {
  try {
    await LIMITS.address.consume(address)
    await LIMITS.name.consume(name.normalize('NFKC').toLowerCase())
    return 0
  } catch (cause) {
    if (!(cause instanceof RateLimiterRes)) throw cause
    log.warn({ name, address, seconds: Math.ceil(cause.msBeforeNext / 1000) }, 'sign-in locked: too many wrong passwords') // prettier-ignore
    return Math.ceil(cause.msBeforeNext / 1000)
  }
}

/** The password was right: what was wrong before no longer counts against the name. */
export async function forgetTries(name: string): Promise<void> {
  await LIMITS.name.delete(name.normalize('NFKC').toLowerCase())
}
