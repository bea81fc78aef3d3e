/**
 * Rendering as the application's worker does it: frames read from a frame store, as many mended at once as there are cores,
 * encoded by ffmpeg. LM_010 of the demo film, 1280 x 720, two clung wires with clean plates from the scene's motion.
 *
 *   render-fps   finished frames a second, reading and encoding included; nothing of it was worked out before
 *   scaling      threads alone, all cores against one: nothing is encoded, which takes a core of its own
 */
import { randomUUID } from 'node:crypto'
import { mkdtempSync, rmSync } from 'node:fs'
import { availableParallelism, tmpdir } from 'node:os'
import { join } from 'node:path'
import { masksOf } from '../core/evaluate/masks'
import { tracksById } from '../core/document/tracks'
import { analyseScene } from '../core/scene/analyseScene'
import { createDirectoryStore } from '../server/frames/store.server'
import { createNodePool } from '../server/jobs/computePool.server'
import { renderFrames } from '../server/jobs/renderFrames.server'
import { encodeFrames } from '../server/media/encode.server'
import type { RenderFormat } from '../server/media/formats'
import { NEVER_STOPS } from '../tests/fixtures/sampleSource'
import { print, round } from './benchTools'
import { clungWires } from './clungWires'
import { openShot } from './film'

const NO_SINK = { write: async () => undefined, finish: async () => undefined }

export async function benchRender(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'bench-'))
  const shot = openShot('LM_010')
  const { width, height, frameRate } = shot.description
  const size = { width, height, channels: 3, bitDepth: 8 } as const
  // The same plate under another name: what a worker has done before is not what is measured.
  const [plateId, warmId] = [randomUUID(), randomUUID()]
  const frames = createDirectoryStore(join(folder, 'frames'))
  try {
    for (const id of [plateId, warmId]) {
      const writer = await frames.createWriter(id)
      for (let frame = shot.span.firstFrame; frame <= shot.span.lastFrame; frame++)
        await writer.write(frame, await shot.read('plate', frame))
      await writer.commit()
    }
    const { mends, tracks } = await clungWires(shot)
    const document = {
      mends,
      tracks: tracksById(tracks),
      plate: { ...shot.span, width, height },
      scene: null,
    }
    const begun = performance.now()
    const request = { range: shot.span, maskAt: masksOf(document, shot.source) }
    const scene = await analyseScene(request, shot.source, NEVER_STOPS)
    print('scene-ms', performance.now() - begun, 'ms', {
      shot: 'LM_010',
      frames: shot.description.frameCount,
    })

    const run = async (workers: number, format: RenderFormat | null) => {
      const pool = createNodePool(workers)
      const plate = {
        plateId,
        ...size,
        location: join(folder, 'frames'),
        matteLocation: folder,
        markLocation: '',
        stillLocation: join(folder, 'frames'),
        resultLocation: join(folder, `results-${workers}-${format}`),
      }
      const path = join(folder, format === 'png' ? 'out.%04d.png' : 'out.mkv')
      const sink = format ? encodeFrames({ ...size, format, path, startNumber: 1001, frameRate }) : NO_SINK
      const source = { frames, pool, document: { ...document, scene }, channels: 3 } as const
      // Workers of the application have worked before: their code is compiled.
      const aside = { ...plate, plateId: warmId }
      const frameRange = { ...shot.span, lastFrame: shot.span.firstFrame + 15 }
      const unseen = encodeFrames({
        ...size,
        format: 'vp9',
        path: join(folder, 'warm.webm'),
        startNumber: 1001,
        frameRate,
      })
      await renderFrames({ ...source, plate: aside }, frameRange, unseen, async () => undefined)
      await unseen.finish()
      const started = performance.now()
      await renderFrames({ ...source, plate }, shot.span, sink, async () => undefined)
      await sink.finish()
      pool.close()
      return shot.description.frameCount / ((performance.now() - started) / 1000)
    }
    const cores = availableParallelism()
    print('render-fps', await run(cores, 'png'), 'fps', { shot: 'LM_010', wires: 2, out: 'PNG', cores })
    print('render-fps', await run(cores, 'ffv1'), 'fps', { shot: 'LM_010', wires: 2, out: 'FFV1', cores })
    const [all, single] = [await run(cores, null), await run(1, null)]
    print('mend-fps', all, 'fps', { shot: 'LM_010', wires: 2, cores })
    print('mend-fps', single, 'fps', { shot: 'LM_010', wires: 2, cores: 1 })
    print('scaling', all / single, 'times', { cores: round(cores) })
  } finally {
    rmSync(folder, { recursive: true })
  }
}
