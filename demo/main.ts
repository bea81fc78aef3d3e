/**
 * Generates the demo film: `node --import tsx demo/main.ts [folder [shot[:first-last] …]]`; of it only some shots, or some
 * of their frames, where they are named.
 *
 * For each shot: `plate/`, `truth/`, `truth-without-grain/` and `matte/` as numbered PNG files and
 * `scene.json` with the exact geometry. The same seed gives the same bytes. A folder that is complete
 * is left as it is; `film.json` lists what is there. Shots are shared out over one process for each core.
 */
import { fork } from 'node:child_process'
import { existsSync } from 'node:fs'
import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { availableParallelism } from 'node:os'
import { extname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'
import type { FrameRange } from '../core/time'
import { FILM } from './film'
import type { DemoShot } from './shot'

/** From source or built, as this is. */
const PAINT_SHARE = new URL(`./paintShare${extname(import.meta.url)}`, import.meta.url)

const KINDS = ['plate', 'truth', 'truth-without-grain', 'matte'] as const

const target = resolve(process.argv[2] ?? '.data/demo')
const wanted = process.argv.slice(3).map((one) => {
  const [, name, first, last] = /^(\w+)(?::(\d+)-(\d+))?$/.exec(one) ?? []
  const shot = FILM.find(({ description }) => description.name === name)
  if (!shot) throw new Error(`There is no shot ${one} in the film.`)
  return { shot, range: first === undefined ? wholeOf(shot) : { firstFrame: Number(first), lastFrame: Number(last) } } // prettier-ignore
})
const all = wanted.length > 0 ? wanted : FILM.map((shot) => ({ shot, range: wholeOf(shot) }))
const waiting = all.filter(({ shot }) => !existsSync(join(target, shot.description.name, 'scene.json')))
// A set is painted anew by each process: whole shots are shared out, and frames of one only where there are cores left.
const cores = availableParallelism()
const shares = Math.max(1, Math.floor(cores / Math.max(1, waiting.length)))
await Promise.all(
  Array.from({ length: cores }, async () => {
    for (let shot = waiting.shift(); shot; shot = waiting.shift())
      await paintShot(shot.shot, shot.range, shares)
  }),
)

// Written last: whoever finds it newer than the list of shots has nothing to paint.
await writeFile(
  join(target, 'film.json'),
  JSON.stringify({ shots: all.map(({ shot }) => shot.description.name) }),
)

function wholeOf({ description: { firstFrame, frameCount } }: DemoShot): FrameRange {
  return { firstFrame, lastFrame: firstFrame + frameCount - 1 }
}

async function paintShot(
  { description, momentAt }: DemoShot,
  range: FrameRange,
  shares: number,
): Promise<void> {
  const { name, firstFrame, frameCount } = description
  const folder = join(target, name)
  const partial = `${folder}.partial`
  await rm(partial, { recursive: true, force: true })
  for (const kind of KINDS) await mkdir(join(partial, kind), { recursive: true })
  await Promise.all(
    Array.from({ length: shares }, (_, share) => paintShare(name, partial, range, share, shares)),
  )
  const frames = Array.from({ length: frameCount }, (_, i) => firstFrame + i)
  await writeFile(
    join(partial, 'scene.json'),
    JSON.stringify({ ...description, moments: frames.map(momentAt) }),
  )
  await rm(folder, { recursive: true, force: true })
  await rename(partial, folder)
  console.log(`demo: ${name}, ${range.lastFrame - range.firstFrame + 1} frames`)
}

function paintShare(
  name: string,
  into: string,
  { firstFrame, lastFrame }: FrameRange,
  share: number,
  shares: number,
): Promise<void> {
  return new Promise((done, fail) => {
    const child = fork(fileURLToPath(PAINT_SHARE), [
      name,
      into,
      String(firstFrame + share),
      String(lastFrame),
      String(shares),
    ])
    child.on('error', fail)
    child.on('exit', (code) =>
      code === 0 ? done() : fail(new Error(`painting the demo film failed (exit ${code})`)),
    )
  })
}
