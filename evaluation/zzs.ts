import { surveyCarrier } from '../core/survey/carrier/carrier'
import { openShot } from './film'
for (const name of process.argv.slice(2)) {
const s = openShot(name, '.data/test-demo')
const sv = surveyCarrier(0)
for (let f=0; f<s.description.frameCount; f++) sv.add(await s.read('plate', s.span.firstFrame+f))
const part = sv.finish()
const by = new Map<number, number>(); for (const k of part.specks) by.set(k.frame, (by.get(k.frame) ?? 0) + 1)
console.log(name, part.specks.length, [...by].map(([a,b])=>a+':'+b).join(' '))
}
