/** Paints every n-th frame of a shot of the demo film: `paintShare.ts SHOT FOLDER FIRST LAST STEP`, started by main.ts. */
import { join } from 'node:path'
import sharp from 'sharp'
import { findShot } from './film'

const shot = findShot(process.argv[2]!)
const folder = process.argv[3]!
const [first, last, step] = process.argv.slice(4).map(Number) as [number, number, number]
const { name, width, height } = shot.description
sharp.concurrency(1)

/** Grain does not get smaller: trying only costs time. */
const GRAINLESS: ReadonlySet<string> = new Set(['truth-without-grain', 'matte'])

async function writePng(kind: string, frame: number, data: Uint8Array, channels: 1 | 3): Promise<void> {
  const raw = { width, height, channels }
  await sharp(data, { raw })
    .png({ compressionLevel: GRAINLESS.has(kind) ? 1 : 0 })
    .toFile(join(folder, kind, `${name}.${frame}.png`))
}

const renderFrame = await shot.prepare()
let writing: Promise<unknown> = Promise.resolve()
for (let frame = first; frame <= last; frame += step) {
  const made = renderFrame(frame)
  await writing
  writing = Promise.all([
    writePng('plate', frame, made.plate, 3),
    writePng('truth', frame, made.truth, 3),
    writePng('truth-without-grain', frame, made.truthWithoutGrain, 3),
    writePng('matte', frame, made.matte, 1),
  ])
}
await writing
