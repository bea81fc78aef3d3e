import sharp from 'sharp'
import { momentAt } from '/work/main/demo/lm010/scene'
import { cropSamples } from '/work/main/core/image/samples'
import { createPathCurve, nearestOnPath, pathPointAt } from '/work/main/core/geometry/pathCurve'
import { ClingTracker } from '/work/main/core/motion/cling/clingTracker'
const pic = { width: 1280, height: 720 }
const cache = new Map()
const read = async (f: number) => {
  if (!cache.has(f))
    cache.set(f, {
      ...pic,
      channels: 3,
      data: new Uint8Array(await sharp(`/work/main/.data/test-demo/LM_010/plate/LM_010.${f}.png`).raw().toBuffer()),
    })
  return cache.get(f)
}
const START = 1024
const m = momentAt(START)
const drawings: any = {
  left: [
    [568, -12],
    [521, 363],
  ],
  right: [
    [745, -14],
    [800, 90],
    [806, 230],
    [797, 370],
  ],
}
for (const [idx, name] of ['left', 'right'].entries()) {
  const errs: number[] = [],
    werrs: number[] = [],
    ends: number[] = []
  const log: string[] = []
  let ms = 0,
    n = 0
  for (const dir of [1, -1]) {
    const t = new ClingTracker(
      drawings[name].map(([x, y]: any) => ({ x, y, widthPx: 10 })),
      { searchPx: 8 },
    )
    for (let f = START; f >= 1001 && f <= 1048; f += dir) {
      const s = await read(f)
      const b = performance.now()
      const r = t.window(pic)!
      const c = cropSamples(s, r)
      const out = f === START ? t.begin(c, r, pic) : t.advance(c, r, pic)
      if (f !== START) {
        ms += performance.now() - b
        n++
      }
      if (!out) {
        console.log('nothing', f)
        break
      }
      const truth = momentAt(f).threads[idx]!
      const tc = createPathCurve(truth.points)
      const cu = createPathCurve(out.points)
      const e: number[] = [],
        w: number[] = []
      for (let a = 0; a <= cu.lengthPx; a += 5) {
        const p = pathPointAt(cu, a)
        if (p.y < 2) continue
        const nn = nearestOnPath(tc, p.x, p.y)
        if (nn.arcPx >= tc.lengthPx - 1e-6) continue
        e.push(nn.distancePx)
        const q = pathPointAt(tc, nn.arcPx)
        w.push(Math.abs(p.widthPx / q.widthPx - 1))
      }
      errs.push(...e)
      werrs.push(...w)
      const end = out.points.at(-1)!
      ends.push(Math.hypot(end.x - truth.contact.x, end.y - truth.contact.y))
      if (f % 4 === 0)
        log.push(
          `${f} mean ${(e.reduce((a, b) => a + b) / e.length).toFixed(2)} max ${Math.max(...e).toFixed(2)} w ${Math.max(...w).toFixed(2)} end ${ends.at(-1)!.toFixed(1)} sure ${out.sure.toFixed(2)} ${out.isHeld ? '' : 'LOST'}`,
        )
    }
  }
  console.log(
    name,
    'mean',
    (errs.reduce((a, b) => a + b) / errs.length).toFixed(3),
    'max',
    Math.max(...errs).toFixed(2),
    'width mean',
    (werrs.reduce((a, b) => a + b) / werrs.length).toFixed(3),
    'max',
    Math.max(...werrs).toFixed(2),
    'end max',
    Math.max(...ends).toFixed(2),
    'ms',
    (ms / n).toFixed(1),
  )
  console.log(log.join('\n'))
}
