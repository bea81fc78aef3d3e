/**
 * Has the simulated camera shoot a lens-cap clip: `node --import tsx demo/shootLensCap.ts FOLDER [frames]`. Numbered PNG files, to be dropped
 * on the Shots page or surveyed on the command line.
 */
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import sharp from 'sharp'
import { CAMERA, shootCovered } from './camera'

const [folder, count = '16'] = process.argv.slice(2)
if (!folder || !/^[1-9]\d{0,3}$/.test(count)) {
  console.error('Say where to: node --import tsx demo/shootLensCap.ts FOLDER [frames, 1 to 9999]')
  process.exit(2)
}
await mkdir(folder, { recursive: true })
const { width, height } = CAMERA
for (let frame = 1001; frame < 1001 + Number(count); frame++) {
  await sharp(shootCovered(frame), { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 1 })
    .toFile(join(folder, `lens_cap.${frame}.png`))
}
console.log(`${CAMERA.name}: ${count} frames in ${folder}`)
