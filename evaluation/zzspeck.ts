import { surveyCarrier } from '../core/survey/carrier/carrier'
import { FIRST_FRAME, openSequence } from './practiceFootage'
for (const name of ['wire_01_hung_vehicle','mark_03_gradient_locked_clip','rod_01_carried_plant','pixels_03_night_lights']) {
const s = openSequence('/work/practice', name)
const sv = surveyCarrier({width:0,height:0,channels:3} as never, 0)
for (let f=0; f<12; f++) sv.add(await s.read('truth', FIRST_FRAME+f))
const part = sv.finish()
console.log(name, [...part.course.values()].map(({x,y})=>x.toFixed(1)+','+y.toFixed(1)).join(' '))
for (const k of part.specks.slice(0, 60).filter((_, i) => i % 2 === 0)) console.log(k.frame, k.x.toFixed(0), k.y.toFixed(0), 'len', k.lengthPx.toFixed(1), 'w', k.widthPx.toFixed(1), 'sure', k.sure.toFixed(2), JSON.stringify((k as any).debug))
}
