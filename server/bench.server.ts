/** What the stages on a shot begin with. */
import type { BitDepth } from '../core/image/samples'
import type { Transaction } from './db/client.server'
import { loadScene } from './scenes.server'
import { allRoundOf } from './views.server'
import { findShot, listShots, loadHistory, loadMends, loadTracks, recentHistoryStart } from './shots.server'

/** Null where there is no such shot. In a transaction, so that the mends and the history that led to them belong to one revision. */
export async function loadBench(tx: Transaction, shotId: string) {
  const found = await findShot(tx, shotId)
  if (!found) return null
  const { shot, plate, productionName } = found
  const shots = await listShots(tx)
  const historyStart = await recentHistoryStart(tx, shot.id)
  return {
    productionName,
    shot: {
      id: shot.id,
      name: shot.name,
      revision: shot.revision,
      isAllRound: shot.isAllRound,
      viewOf: await allRoundOf(tx, shot.id),
    },
    shots: shots.map((row) => ({ id: row.shot.id, name: row.shot.name })),
    plate: {
      id: plate.id,
      width: plate.width,
      height: plate.height,
      channels: plate.channels,
      bitDepth: plate.bitDepth as BitDepth,
      frameRate: { num: plate.rateNum, den: plate.rateDen },
      firstFrame: plate.firstFrame,
      lastFrame: plate.firstFrame + plate.frameCount - 1,
      damagedFrames: plate.damagedFrames,
    },
    records: await loadMends(tx, shot.id),
    tracks: await loadTracks(tx, shot.id),
    scene: await loadScene(tx, shot.id),
    history: await loadHistory(tx, shot.id, historyStart),
    hasEarlierSteps: historyStart > 0,
  }
}

/** One moment of the database, only read. */
export const ONE_MOMENT = { isolationLevel: 'repeatable read', accessMode: 'read only' } as const
