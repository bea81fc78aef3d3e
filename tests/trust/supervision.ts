/**
 * Kills the parts of a running installation, singly and together, and looks whether all is back, once each:
 *   node --import tsx tests/trust/supervision.ts [--rounds=50] [--seed=1]
 * By itself, or by the next start where what watches over the others was killed too.
 */
import { chmod, mkdtemp, rm } from 'node:fs/promises'
import { setTimeout as sleep } from 'node:timers/promises'
import { createRandom } from '../random'
import { Installation, isAlive, PARTS, processesOn, type Part } from './installation'
import { numberGiven } from './numberGiven'

export interface Round {
  readonly killed: readonly Part[]
  readonly backMs: number
  readonly wasStarted: boolean
}

const PATIENCE_MS = 15_000

/** @param seed  Chooses who is killed when. @throws Error with the first thing that did not come back, or came back twice. */
export async function killParts(rounds: number, seed: number, port: number): Promise<readonly Round[]> {
  const random = createRandom(seed)
  const dataDir = await mkdtemp('/var/tmp/fillagrant-kill-')
  await chmod(dataDir, 0o755) // the database runs as another user
  const installation = new Installation(dataDir, port)
  const done: Round[] = []
  try {
    await installation.start()
    await installation.untilWhole(PATIENCE_MS)
    for (let round = 0; round < rounds; round++) {
      await sleep(200 + 1500 * random())
      const chosen = PARTS.filter(() => random() < 0.4)
      const killed = chosen.length > 0 ? chosen : [PARTS[Math.floor(random() * PARTS.length)]!]
      const before = killed.map((part) => installation.pidOf(part))
      for (const part of killed) installation.kill(part)
      const begun = Date.now()
      while (before.some(isAlive)) await sleep(20)
      const wasStarted = killed.includes('supervisor')
      if (wasStarted) await installation.start(PATIENCE_MS)
      await installation.untilWhole(PATIENCE_MS)
      const running = processesOn(dataDir)
      if (PARTS.some((part) => running[part] !== 1)) throw new Error(`Round ${round}, killed ${killed.join(', ')}: running are ${JSON.stringify(running)}`) // prettier-ignore
      done.push({ killed, backMs: Date.now() - begun, wasStarted })
    }
    await installation.stop()
    const left = processesOn(dataDir)
    if (PARTS.some((part) => left[part] > 0))
      throw new Error(`Still running after the end: ${JSON.stringify(left)}`)
    return done
  } finally {
    await installation.stop()
    await rm(dataDir, { recursive: true, force: true })
  }
}

if (process.argv[1] === import.meta.filename) {
  const rounds = await killParts(numberGiven('rounds', 50), numberGiven('seed', 1), numberGiven('port', 4590))
  const times = rounds.map(({ backMs }) => backMs).sort((a, b) => a - b)
  process.stdout.write(JSON.stringify({ rounds: rounds.length, started: rounds.filter(({ wasStarted }) => wasStarted).length, medianMs: times[times.length >> 1], worstMs: times.at(-1) }) + '\n') // prettier-ignore
}
