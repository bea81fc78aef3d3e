/** A few of the rounds that are run by the hundred by hand: whatever is killed, all is back by itself and nothing is lost. */
import { expect, test } from '@playwright/test'
import { backUpWhileRendering } from '../trust/backup'
import { killWhileWorking } from '../trust/kills'
import { killParts } from '../trust/supervision'

test('five kills while footage comes in, mends are made, versions rendered and shots scanned', async () => {
  const toll = await killWhileWorking(5, 21, 4610) // each part once
  console.log(JSON.stringify(toll))
  expect(toll.acknowledgedEdits).toBeGreaterThan(0)
  expect(toll.importsDone).toBeGreaterThan(0)
  expect(toll).toMatchObject({
    lostEdits: 0,
    doubledEdits: 0,
    tornImports: 0,
    tornVersions: 0,
    hanging: 0,
    leftAfterDoctor: 0,
  })
})

test('parts killed singly and together are back, one of each', async () => {
  const rounds = await killParts(3, 4, 4620)
  expect(rounds).toHaveLength(3)
})

test('a backup while a render runs is brought back on an empty machine: same frames, same history', async () => {
  const back = await backUpWhileRendering(4630)
  expect(back.framesDone).toBeLessThan(back.frames)
  expect(back).toMatchObject({
    isSameHistory: true,
    areSameFrames: true,
    rightsOfOthers: 0,
    told: 'It was being made when the backup was taken. Make it again.',
    madeAgain: 'done',
  })
})
