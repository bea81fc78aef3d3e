import { surveyCarrier } from '../core/survey/carrier/carrier'
import { openShot } from './film'
for (const name of ['LM_040', 'LM_080', 'LM_060']) {
  const s = openShot(name, '.data/test-demo')
  const sv = surveyCarrier(0)
  for (let f = 0; f < 10; f++) sv.add(await s.read('truth', s.span.firstFrame + f))
  const part = sv.finish()
  console.log(name, [...part.course.values()].map(({ x, y }) => x.toFixed(1) + ',' + y.toFixed(1)).join(' '))
  for (const k of part.specks.slice(0, 50))
    console.log(
      k.frame,
      k.x.toFixed(0),
      k.y.toFixed(0),
      'len',
      k.lengthPx.toFixed(1),
      'w',
      k.widthPx.toFixed(1),
      'sure',
      k.sure.toFixed(2),
    )
}
