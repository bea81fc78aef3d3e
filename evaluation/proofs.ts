/**
 * Every demo shot rendered in every lossless format, and proved by the application's own worker: JSON lines of samples changed outside the mends, frames of
 * the file that are not as they were rendered, and how long measuring took beside the render, as no result was stored before. Then the page: a proof
 * of 1000 frames with 20 mends opened, and three mends at 1280x720 played from the cache. Nothing else should run meanwhile.
 *
 *   bash scripts/with-database.sh node --import tsx evaluation/proofs.ts [FILM] [--only=NAME] [--part=page|shots|play]
 */
import { randomUUID } from 'node:crypto'
import { link, mkdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { chromium, type Page } from '@playwright/test'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import { PROOF_MEASURE_IDS } from '../core/proof/frameProof'
import { FILM } from '../demo/film'
import { openDatabase, type DatabaseClient } from '../server/db/client.server'
import { plates, proofFrames, proofs, shots } from '../server/db/schema'
import { OWN_PRODUCTION_ID } from '../server/db/migrate.server'
import { BROWSER_PATH } from '../tests/browserPath'
import { startApplication, type Application } from '../tests/e2e/application'
import { bringInDemo } from '../tests/e2e/seed'
import { sceneKnown, storeMends } from './benchPageTools'
import { demoBases } from './snagBases'

const PORT = 4397
const film = process.argv.slice(2).find((one) => !one.startsWith('--')) ?? '.data/test-demo'
const only = process.argv.find((one) => one.startsWith('--only='))?.split('=')[1]
const part = process.argv.find((one) => one.startsWith('--part='))?.split('=')[1]
const isAsked = (one: string) => part === undefined || part === one
const tell = (line: object) => process.stdout.write(`${JSON.stringify(line)}\n`)

/** Where nothing is known of a shot's trouble: what lies under a box in its middle, from other frames. */
function boxMend(
  id: string,
  { firstFrame, frameCount, width, height }: (typeof FILM)[number]['description'],
  x = 0.5,
): Mend {
  const key = {
    frame: firstFrame,
    x: x * width,
    y: height / 2,
    widthPx: 90,
    heightPx: 70,
    turnDeg: 0,
    cornerPx: 0,
  }
  return {
    id,
    kind: 'object',
    name: id,
    isOn: true,
    areas: [{ id: 'a', shape: 'box', role: 'cover', interpolation: 'smooth', follow: null, keys: [key] }],
    fill: startingFill('object'),
    source: null,
    finish: startingFinish('object'),
    span: { firstFrame, lastFrame: firstFrame + frameCount - 1, rampInFrames: 0, rampOutFrames: 0 },
  }
}

const idOf = (name: string): string => name.toLowerCase().replaceAll('_', '-')

/** Makes a version and waits until it is proved. */
async function proved(
  { url }: Application,
  { pool }: DatabaseClient,
  shotId: string,
  format: string,
  last: number,
) {
  const form = new URLSearchParams({ intent: 'make', format, firstFrame: '1001', lastFrame: String(last) })
  await fetch(`${url}/shots/${shotId}/handover.data`, {
    method: 'POST',
    headers: { Origin: url },
    body: form,
  })
  for (;;) {
    const { rows } = await pool.query<{ state: string; proof: string | null; error: string | null; render: number; seconds: number; outside: number; off: number; frames: number }>(
      `select v.state, v.error, p.state proof, extract(epoch from v.finished_at - v.started_at)::float render, extract(epoch from p.finished_at - p.started_at)::float seconds,
        (select sum(changed_outside)::int from proof_frames f where f.proof_id = p.id) outside,
        (select count(*)::int from proof_frames f where f.proof_id = p.id and not is_as_rendered) off,
        (select count(*)::int from proof_frames f where f.proof_id = p.id) frames
       from versions v left join proofs p on p.version_id = v.id where v.shot_id = $1 order by v.number desc limit 1`,
      [shotId],
    ) // prettier-ignore
    const [row] = rows
    if (row?.state === 'failed') throw new Error(row.error ?? 'failed')
    if (row?.proof === 'done') return row
    await new Promise((resolve) => setTimeout(resolve, 300))
  }
}

async function proveShots(application: Application, database: DatabaseClient): Promise<void> {
  const bases = await demoBases(film)
  for (const { description } of FILM) {
    const { name, firstFrame, frameCount } = description
    if (only && name !== only) continue
    await bringInDemo(name)
    const shotId = idOf(name)
    const mends = bases.find((base) => base.name === name)?.mends ?? [boxMend('box', description)]
    await storeMends(application.url, shotId, mends, [])
    await sceneKnown(application.url, shotId)
    for (const format of ['png', 'ffv1']) {
      const row = await proved(application, database, shotId, format, firstFrame + frameCount - 1)
      tell({
        figure: 'proof', shot: name, format, frames: row.frames, changedOutside: row.outside, notAsRendered: row.off,
        renderSeconds: row.render, proofSeconds: row.seconds, share: Math.round((1000 * row.seconds) / row.render) / 10,
      }) // prettier-ignore
    }
  }
}

/** A proof of 1000 frames with 20 mends, as it would be stored. */
async function storeLongProof({ db }: DatabaseClient, dataDir: string): Promise<void> {
  const [COUNT, MENDS] = [1000, 20]
  await db.insert(shots).values({ id: 'long', productionId: OWN_PRODUCTION_ID, name: 'long' })
  const plateId = randomUUID()
  await linkFrames(join(dataDir, 'frames', plateId), COUNT)
  await db.insert(plates).values({ id: plateId, shotId: 'long', sourceName: 'made', width: 1280, height: 720, channels: 3, bitDepth: 8, rateNum: 24, rateDen: 1, firstFrame: 1001, frameCount: COUNT }) // prettier-ignore
  const proofId = randomUUID()
  await db.insert(proofs).values({ id: proofId, shotId: 'long', state: 'done', framesDone: COUNT, framesTotal: COUNT, startedAt: new Date(), finishedAt: new Date() }) // prettier-ignore
  const rows = Array.from({ length: COUNT }, (_, i) => {
    const frame = 1001 + i
    const mends = Array.from({ length: MENDS }, (__, mend) => ({
      mendId: `m${mend}`,
      numbers: Object.fromEntries(PROOF_MEASURE_IDS.map((measure, at) => [measure, Math.round(1000 + 500 * Math.sin(frame / 9 + mend + at)) / 1000])), // prettier-ignore
      overTime: { inside: { e: Math.round(1000 + 1000 * Math.sin(frame / 5 + mend)) / 1000, x: 400.5, y: 300.5 }, beside: { e: 1.5, x: 410.5, y: 310.5 }, usualE: 0.8, sharpness: 0.97, grain: 0.95 }, // prettier-ignore
    }))
    const snags = frame % 20 === 0 ? [{ mendId: 'm3', frame, reason: 'flicker' as const, x: 5, y: 5, words: 'It flickers.', weight: 1 + (frame % 7) }] : [] // prettier-ignore
    return { proofId, frame, name: 'n', plateSha256: 'a'.repeat(64), resultSha256: 'b'.repeat(64), changedOutside: 0, proof: { frame, mends, snags } as never } // prettier-ignore
  })
  for (let at = 0; at < rows.length; at += 250) await db.insert(proofFrames).values(rows.slice(at, at + 250))
}

/** Frames of the size they say, one file under many names. */
async function linkFrames(folder: string, count: number): Promise<void> {
  await mkdir(folder, { recursive: true })
  const nameOf = (frame: number) => join(folder, `${String(frame).padStart(7, '0')}.pam`)
  const head = 'P7\nWIDTH 1280\nHEIGHT 720\nDEPTH 3\nMAXVAL 255\nTUPLTYPE RGB\nENDHDR\n'
  await writeFile(nameOf(1001), Buffer.concat([Buffer.from(head), Buffer.alloc(1280 * 720 * 3, 90)]))
  for (let frame = 1002; frame < 1001 + count; frame++) await link(nameOf(1001), nameOf(frame))
}

/** Animation frames a second, while the charts and lists are scrolled or at rest: a browser without a graphics card has few of them anyway. */
const scrolledRate = (page: Page, isScrolled: boolean) =>
  page.evaluate(async (isScrolled) => {
    const scrolled = [...document.querySelectorAll('*')].filter((one) => one.scrollHeight > one.clientHeight + 100 && getComputedStyle(one).overflowY === 'auto') // prettier-ignore
    const begun = performance.now()
    let frames = 0
    while (performance.now() - begun < 2000) {
      for (const one of isScrolled ? scrolled : [])
        one.scrollTop = (one.scrollTop + 23) % (one.scrollHeight - one.clientHeight)
      await new Promise(requestAnimationFrame)
      frames++
    }
    return (frames * 1000) / (performance.now() - begun)
  }, isScrolled)

async function openPages({ url, dataDir }: Application, database: DatabaseClient, page: Page): Promise<void> {
  await storeLongProof(database, dataDir)
  const begun = performance.now()
  await (await fetch(`${url}/shots/long/proof/state`)).text()
  tell({ figure: 'proof-state-ms', ms: Math.round(performance.now() - begun) })
  const times: number[] = []
  for (let i = 0; i < 4; i++) {
    const begun = performance.now()
    await page.goto(`${url}/shots/long/proof`, { waitUntil: 'commit' })
    await page.locator('[data-testid=chart-seen] svg path').first().waitFor()
    times.push(performance.now() - begun)
  }
  // Frames are fetched ahead for a while.
  await page.waitForTimeout(8000)
  tell({ figure: 'proof-page-ms', first: Math.round(times[0]!), again: times.slice(1).map(Math.round), restFps: Math.round(await scrolledRate(page, false)), scrollFps: Math.round(await scrolledRate(page, true)) }) // prettier-ignore
}

/** While it plays, from a nudge of a mend's feather to the first frame that has the new value, ms. */
async function nudge(page: Page): Promise<number[]> {
  await page.getByTestId('mend-card').first().click()
  await page.getByRole('button', { name: /^Finish/ }).click()
  await page.getByRole('slider', { name: /^Feather out/ }).focus()
  await page.evaluate(() => {
    const seen = window as unknown as { nudged: number[] }
    seen.nudged = []
    window.addEventListener(
      'keydown',
      () => {
        const begun = performance.now()
        const look = () => {
          const { stage } = document.querySelector<HTMLCanvasElement>('[data-testid=picture-canvas]')!.dataset
          isOld ||= stage === 'older'
          if (isOld && stage === 'full') seen.nudged.push(Math.round(performance.now() - begun))
          else requestAnimationFrame(look)
        }
        let isOld = false
        requestAnimationFrame(look)
      },
      true,
    )
  })
  for (let i = 0; i < 5; i++) {
    await page.keyboard.press('ArrowRight')
    await page.waitForTimeout(4000)
  }
  return page.evaluate(() => (window as unknown as { nudged: number[] }).nudged)
}

/** Three mends on a shot of 1280x720, played when all its frames are ready: what is said against the frames that really change. */
async function play({ url }: Application, page: Page): Promise<void> {
  const { description } = FILM.find((one) => one.description.name === 'LM_080')!
  await bringInDemo('LM_080')
  const shotId = idOf('LM_080')
  const database = openDatabase(process.env['FILLAGRANT_TEST_DATABASE']!)
  const { rows } = await database.pool.query<{ revision: number }>(
    'select revision from shots where id = $1',
    [shotId],
  )
  await database.pool.end()
  await storeMends(url, shotId, [0.25, 0.55, 0.8].map((x, i) => boxMend(`three-${i}`, description, x)), [], rows[0]!.revision) // prettier-ignore
  await page.goto(`${url}/shots/${shotId}/mend`)
  await page
    .getByTestId('ready')
    .filter({ hasText: /(\d+)\/\1 ready/ })
    .waitFor({ timeout: 600_000 })
  await page.getByTestId('picture').focus()
  await page.keyboard.press('Space')
  await page.waitForTimeout(2500)
  const counted = await page.evaluate(async () => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=picture-canvas]')!
    let [shown, last] = [0, canvas.dataset['frame']]
    const begun = performance.now()
    while (performance.now() - begun < 4000) {
      await new Promise(requestAnimationFrame)
      if (canvas.dataset['frame'] !== last) shown++
      last = canvas.dataset['frame']
    }
    return (shown * 1000) / (performance.now() - begun)
  })
  const nudged = await nudge(page)
  tell({ figure: 'playback-three-mends', nudgeToNewFrameMs: nudged, fps: Math.round(10 * counted) / 10, said: await page.getByTestId('ready').innerText() }) // prettier-ignore
}

const application = await startApplication(PORT)
process.env['FILLAGRANT_TEST_DATABASE'] = application.databaseUrl
process.env['FILLAGRANT_TEST_DATA'] = application.dataDir
const database = openDatabase(application.databaseUrl)
const browser = await chromium.launch({ executablePath: BROWSER_PATH, args: ['--no-sandbox'] })
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  // What compiles this file gives functions their names; in the page nothing does.
  await page.addInitScript('globalThis.__name = (one) => one')
  if (isAsked('page')) await openPages(application, database, page)
  if (isAsked('shots')) await proveShots(application, database)
  if (isAsked('play')) await play(application, page)
} finally {
  await browser.close()
  await database.pool.end()
  await application.stop()
}
process.exit(0)
