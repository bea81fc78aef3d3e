/** What a result can be compared with: the finished versions of a shot; asked for one, or for the mends as they are now, what that is made of. */
import { z } from 'zod'
import { versionTitle } from '../../core/versionTitle'
import { ONE_MOMENT } from '../../server/bench.server'
import { serverContext } from '../../server/context.server'
import { frozenBench, listProvable } from '../../server/frozenBench.server'
import { loadScene } from '../../server/scenes.server'
import { findShot, loadMends, loadTracks } from '../../server/shots.server'
import type { Comparable } from '../../workbench/compare/CompareMenu'
import type { OtherMends } from '../../workbench/compare/useOtherSide'
import type { Route } from './+types/compared'

const whichSchema = z.union([z.literal('now'), z.uuid()]).optional()

export async function loader({ params: { shotId, which } }: Route.LoaderArgs) {
  const asked = whichSchema.safeParse(which)
  return serverContext().database.db.transaction(async (tx) => {
    if (!asked.success || !(await findShot(tx, shotId)))
      return missing('There is no such shot, or no such version of it.')
    if (asked.data === 'now') {
      const [records, tracks, { scene }] = [await loadMends(tx, shotId), await loadTracks(tx, shotId), await loadScene(tx, shotId)] // prettier-ignore
      return Response.json({ title: 'As it is now', records, tracks, scene } satisfies OtherMends)
    }
    const versions = await listProvable(tx, shotId)
    if (asked.data === undefined)
      return Response.json(
        versions.map(({ id, number }): Comparable => ({ id, title: versionTitle(number) })),
      )
    const version = versions.find(({ id }) => id === asked.data)
    if (!version) return missing('This version is not of this shot, or not done yet.')
    const { records, tracks, scene } = await frozenBench(tx, version.id)
    return Response.json({
      title: versionTitle(version.number),
      records,
      tracks,
      scene: scene.scene,
    } satisfies OtherMends)
  }, ONE_MOMENT)
}

const missing = (message: string) => Response.json({ message }, { status: 404 })
