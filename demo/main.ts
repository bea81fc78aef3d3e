/**
 * Generates the demo film: `node --import tsx demo/main.ts [folder]`.
 *
 * For each shot: `plate/`, `truth/`, `truth-without-grain/` and `matte/` as numbered PNG files and
 * `scene.json` with the exact geometry. The same seed gives the same bytes. A folder that is complete
 * is left as it is.
 */
import { existsSync } from 'node:fs'
import { mkdir, rename, rm, writeFile } from 'node:fs/promises'
import { join, resolve } from 'node:path'
import sharp from 'sharp'
import { paintSet, renderFrame } from './lm010/render'
import { LM_010, momentAt } from './lm010/scene'

const target = resolve(process.argv[2] ?? '.data/demo')

async function writePng(file: string, data: Uint8Array, channels: 1 | 3): Promise<void> {
  const raw = { width: LM_010.width, height: LM_010.height, channels }
  await sharp(data, { raw }).png({ compressionLevel: 3, adaptiveFiltering: false }).toFile(file)
}

async function generateLm010(): Promise<void> {
  const folder = join(target, LM_010.name)
  if (existsSync(join(folder, 'scene.json'))) return
  const partial = `${folder}.partial`
  await rm(partial, { recursive: true, force: true })
  const kinds = ['plate', 'truth', 'truth-without-grain', 'matte'] as const
  for (const kind of kinds) await mkdir(join(partial, kind), { recursive: true })
  const set = await paintSet()
  const frames = Array.from({ length: LM_010.frameCount }, (_, i) => LM_010.firstFrame + i)
  let writing: Promise<unknown> = Promise.resolve()
  for (const frame of frames) {
    const made = renderFrame(set, frame)
    await writing
    const file = (kind: string) => join(partial, kind, `${LM_010.name}.${frame}.png`)
    writing = Promise.all([
      writePng(file('plate'), made.plate, 3),
      writePng(file('truth'), made.truth, 3),
      writePng(file('truth-without-grain'), made.truthWithoutGrain, 3),
      writePng(file('matte'), made.matte, 1),
    ])
    if ((frame - LM_010.firstFrame) % 12 === 11) console.log(`demo: ${LM_010.name} ${frame - LM_010.firstFrame + 1} of ${LM_010.frameCount} frames`)
  }
  await writing
  await writeFile(join(partial, 'scene.json'), JSON.stringify({ ...LM_010, moments: frames.map(momentAt) }))
  await rm(folder, { recursive: true, force: true })
  await rename(partial, folder)
}

await generateLm010()
