/** LM_010 as an artist leaves it: two wires drawn by a few clicks, each clinging to its line. */
import { clungArea } from '../core/document/clungArea'
import { absorbCling, CLING_SEARCH_PX, bothWays, clingRequest, newTrack } from '../core/document/follow'
import { startingFill, startingFinish, type Mend } from '../core/document/mend'
import type { Track } from '../core/document/tracks'
import { runCling } from '../core/motion/cling/runCling'
import { DEFAULT_TRACK_SETTINGS } from '../core/motion/settings'
import { sampleMend, samplePath } from '../tests/fixtures/sampleMend'
import { ROUGH_DRAWINGS, ROUGH_FRAME } from './clingErrors'
import type { OpenShot } from './film'

const WIDTH_PX = 10

export async function clungWires({ span, source }: OpenShot): Promise<{ mends: Mend[]; tracks: Track[] }> {
  const mends: Mend[] = []
  const tracks: Track[] = []
  for (const name of ['left', 'right'] as const) {
    const points = ROUGH_DRAWINGS[name].map(([x, y]) => ({ x, y, widthPx: WIDTH_PX }))
    const settings = { ...DEFAULT_TRACK_SETTINGS, searchPx: CLING_SEARCH_PX }
    const placed = newTrack(`cling-${name}`, 'cling', name, ROUGH_FRAME, [], settings)
    const request = clingRequest(placed, points, ROUGH_FRAME, bothWays(ROUGH_FRAME, span))
    const track = absorbCling(placed, await runCling(request, source, { shouldStop: () => false }))
    tracks.push(track)
    const area = clungArea(samplePath(), new Map(), track, span, ROUGH_FRAME, span)
    const [fill, finish] = [startingFill('wire'), startingFinish('wire')]
    mends.push(sampleMend({ id: name, name, areas: [area], span, fill, finish }))
  }
  return { mends, tracks }
}
