import { linesOf } from '../core/survey/carrier/standingLines'
import { lightOf } from '../core/survey/carrier/light'
import { FIRST_FRAME, openSequence } from './practiceFootage'
const s = openSequence('/work/practice', 'pixels_03_night_lights')
for (let f=0; f<4; f++) { const p = await s.read('truth', FIRST_FRAME+f); const q={...p,data:p.data.slice()}; const x = 0.3 * 960 + 2.5 * Math.sin(f / 3)
for (let row = 0; row < 540; row++) for (let col = Math.floor(x) - 2; col <= x + 2; col++) for (let k=0;k<3;k++) { const at=(row*960+col)*3+k; q.data[at] = Math.min(255, q.data[at]! + 26 * Math.max(0, 1 - Math.abs(col + 0.5 - x) / 1.5)) }
console.log(x, JSON.stringify(linesOf(lightOf(q), 'x'))) }
import { surveyCarrier } from '../core/survey/carrier/carrier'
const sv = surveyCarrier({} as never, 0)
for (let f=0; f<12; f++) { const p = await s.read('truth', FIRST_FRAME+f); const q={...p,data:p.data.slice()}; const x = 0.3 * 960 + 2.5 * Math.sin(f / 3)
for (let row = 0; row < 540; row++) for (let col = Math.floor(x) - 2; col <= x + 2; col++) for (let k=0;k<3;k++) { const at=(row*960+col)*3+k; q.data[at] = Math.min(255, q.data[at]! + 26 * Math.max(0, 1 - Math.abs(col + 0.5 - x) / 1.5)) }
sv.add(q) }
const r = sv.finish()
for (const u of r.upright) if (u.seen.length > 3) console.log(u.firstFrame, u.lastFrame, u.seen.map(o=>o.frame+':'+o.at.toFixed(1)).join(' '), [...r.course.values()].map(c=>c.x.toFixed(1)).join(' '))
