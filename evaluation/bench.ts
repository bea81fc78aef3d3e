/**
 * `npm run bench`: one JSON line for each figure, and at the end what has become slower than `docs/bench.json` says by more
 * than a quarter. Nothing else should run meanwhile. What each file measures is written at its top.
 *
 *   --start   also start-ms: `npm start` to healthy on a warm machine; it needs a free port
 *   --keep    writes `docs/bench.json` anew: with a new version
 */
import { execFileSync, spawn } from 'node:child_process'
import { readyDigests } from '../core/shot/digest'
import { benchFills } from './benchFills'
import { benchGather } from './benchGather'
import { benchKernels } from './benchKernels'
import { benchMarks, benchShadows } from './benchLayers'
import { benchPlanning } from './benchPlanning'
import { benchPreview } from './benchPreview'
import { benchRender } from './benchRender'
import { benchBrush } from './benchBrush'
import { benchSkin } from './benchSkin'
import { benchSurvey } from './benchSurvey'
import { compareWithLast, keepFigures, print } from './benchTools'
import { benchCling, benchTracker } from './benchTrackers'

/** From `npm start` to its word that it is healthy. The machine is warm: a first start has gone before. */
async function benchStart(): Promise<void> {
  const env = { ...process.env, FILLAGRANT_PORT: '4397' }
  const child = spawn('npm', ['start'], { env, detached: true, stdio: ['ignore', 'pipe', 'ignore'] })
  const begun = performance.now()
  for await (const chunk of child.stdout) if (String(chunk).includes('http://')) break
  print('start-ms', performance.now() - begun, 'ms')
  process.kill(-child.pid!, 'SIGINT')
  await new Promise((resolve) => child.once('exit', resolve))
}

await readyDigests()
await benchPreview()
await benchFills()
await benchGather()
await benchMarks()
await benchShadows()
await benchSkin()
await benchBrush()
benchSurvey()
await benchKernels()
await benchTracker()
benchCling()
await benchPlanning()
await benchRender()
if (process.argv.includes('--start')) await benchStart()
print('node', Number(process.versions.node.split('.')[0]), 'major', {
  cores: execFileSync('nproc', { encoding: 'utf8' }).trim(),
})
if (process.argv.includes('--keep')) keepFigures()
else compareWithLast()
