/** A person's face under the hands: as soon as its skin is outlined, eyes, brows and lips are held out, with the same bits that Node finds. */
import { join } from 'node:path'
import sharp from 'sharp'
import { parseDocument } from '../../core/document/document'
import { findFaces } from '../../core/evaluate/findFaces'
import { apply } from '../../core/geometry/transform'
import { rowOf, tracksById } from '../../core/document/tracks'
import { faceFilesIn } from '../../server/faceFiles.server'
import { faceModel } from '../../workers/faces/faceModel'
import { documentOf } from '../fixtures/sampleDocument'
import { NEVER_STOPS } from '../fixtures/sampleSource'
import { FIRST_FRAME, motionAt, portraitClip } from '../fixtures/portrait'
import { bringIn, MendStage } from './bench'
import { expect, test } from './test'

const COUNT = 5
const DRAWN_ON = FIRST_FRAME + 2
/** Round the face of the photograph, by hand. */
const FACE = [[178, 92], [200, 74], [245, 78], [270, 100], [264, 140], [240, 172], [215, 176], [188, 150]] as const // prettier-ignore

test('eyes, brows and lips are held out, looked at, evened too, and held out again', async ({ page }) => {
  const clip = portraitClip()
  const { width, height } = clip.plate
  const files = await Promise.all(
    Array.from({ length: COUNT }, async (_, i) => {
      const { data, channels } = await clip.readRect(FIRST_FRAME + i, { col: 0, row: 0, width, height })
      const raw = { width, height, channels: channels as 3 }
      return {
        name: `portrait.${FIRST_FRAME + i}.png`,
        mimeType: 'image/png',
        buffer: await sharp(Buffer.from(data.buffer), { raw }).png().toBuffer(),
      }
    }),
  )
  const shotId = await bringIn(page, files)

  const stage = new MendStage(page)
  await stage.open(shotId, `?frame=${DRAWN_ON}`)
  const motion = motionAt(DRAWN_ON)
  await stage.draw('Skin', FACE.map(([x, y]) => { const at = apply(motion, x, y); return [at.x, at.y] as const })) // prettier-ignore
  const said = page.getByTestId('faces')
  await expect(said).toContainText('of 1 face are held out')
  await stage.saved()
  const stored = async () => {
    const parsed = parseDocument(await (await page.request.get(`/shots/${shotId}/mends.json`)).text())
    if (!parsed.ok) throw new Error(parsed.detail)
    return parsed.document
  }
  const { mends, tracks } = await stored()
  const holdouts = () => mends[0]!.areas.filter(({ role }) => role === 'holdout')
  expect(holdouts()).toHaveLength(6)
  expect(tracks).toMatchObject([{ kind: 'face' }])

  // The same mend, found in Node: not a bit differs.
  const drawn = { ...mends[0]!, areas: mends[0]!.areas.filter(({ role }) => role === 'cover') }
  const plate = { firstFrame: FIRST_FRAME, lastFrame: FIRST_FRAME + COUNT - 1, width, height }
  const model = await faceModel(faceFilesIn(join(import.meta.dirname, '../../public/faces')))
  const document = documentOf([drawn], tracksById(tracks), plate)
  const faces = await findFaces(document, drawn.id, DRAWN_ON, clip, model, NEVER_STOPS)
  expect(tracks[0]!.frames).toEqual(faces![0]!.map(rowOf))

  await page.getByRole('button', { name: 'Even them too' }).click()
  await expect(page.getByRole('button', { name: 'Hold them out' })).toBeVisible()
  await page.getByRole('button', { name: 'Hold them out' }).click()
  await expect(said).toContainText('of 1 face are held out')
  for (let steps = 0; steps < 3; steps++) await page.keyboard.press('Control+z')
  await expect(page.getByRole('button', { name: 'Find faces' })).toBeVisible()
  await stage.saved()
  expect((await stored()).mends[0]!.areas).toHaveLength(1)
})
