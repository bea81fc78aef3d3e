/** Paints every n-th frame of the demo film: `paintShare.ts FOLDER SHARE SHARES`, started by main.ts. */
import { join } from 'node:path'
import sharp from 'sharp'
import { paintSet, renderFrame } from './lm010/render'
import { LM_010 } from './lm010/scene'

const [folder, share, shares] = [process.argv[2]!, Number(process.argv[3]), Number(process.argv[4])]
sharp.concurrency(1)

async function writePng(kind: string, frame: number, data: Uint8Array, channels: 1 | 3): Promise<void> {
  const raw = { width: LM_010.width, height: LM_010.height, channels }
  await sharp(data, { raw })
    .png({ compressionLevel: 2 })
    .toFile(join(folder, kind, `${LM_010.name}.${frame}.png`))
}

const set = await paintSet()
let writing: Promise<unknown> = Promise.resolve()
for (let frame = LM_010.firstFrame + share; frame < LM_010.firstFrame + LM_010.frameCount; frame += shares) {
  const made = renderFrame(set, frame)
  await writing
  writing = Promise.all([
    writePng('plate', frame, made.plate, 3),
    writePng('truth', frame, made.truth, 3),
    writePng('truth-without-grain', frame, made.truthWithoutGrain, 3),
    writePng('matte', frame, made.matte, 1),
  ])
}
await writing
