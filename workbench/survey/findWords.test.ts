import { viewShowing } from '../picture/view'
import type { Find } from '../../core/survey/finds'
import { nameOf, placeWords, sureWords } from './findWords'
import { scanWords } from './SurveyStrip'

const always = { id: 'a', x: 318.4, y: 214.9, firstFrame: 1001, lastFrame: 1048, why: '' }
const pixel: Find = { kind: 'pixel', class: 'stuck-red', widthPx: 3, heightPx: 3, sure: 0.99, ...always }
const mote: Find = {
  kind: 'mote',
  radiusXPx: 25,
  radiusYPx: 23,
  turnDeg: 10,
  depthStops: -0.62,
  sure: 0.5,
  ...always,
}

test('a find is told by what it is, where it is and how large', () => {
  expect([nameOf(pixel), placeWords(pixel)]).toEqual(['Stuck red pixel', '318, 214 · 3×3 px'])
  expect([nameOf(mote), placeWords(mote)]).toEqual(['Mote', '318, 214 · ⌀ 48 px, −0.6 stops'])
  const mark: Find = { kind: 'mark', widthPx: 160, heightPx: 40, opacity: 0.35, sure: 0.7, ...always }
  expect(placeWords(mark)).toBe('318, 214 · 160×40 px, hides 35 %')
  const points = [{ x: 1, y: 2, widthPx: 4 }, { x: 3, y: 400, widthPx: 6 }] // prettier-ignore
  expect(placeWords({ kind: 'line', keys: [{ frame: 1001, points }], sure: 0.6, ...always })).toBe(
    '1001–1048 · 5 px wide',
  )
})

test('what is not sure asks to be looked at', () => {
  expect([1, 0.99, 0.8, 0.61, 0.05].map(sureWords)).toEqual([
    'sure 1.0',
    'sure .99',
    'sure .80',
    'look .61',
    'look .05',
  ])
})

test('a scan says how long it took and what it noticed of the clip', () => {
  expect(scanWords({ frames: 72, seconds: 2.94, cuts: [], rest: 'moves' })).toBe(
    'Scanned 72 frames in 2.9 s · no cuts',
  )
  expect(scanWords({ frames: 9, seconds: 1, cuts: [1004], rest: 'covered' })).toBe(
    'Scanned 9 frames in 1.0 s · 1 cut · the lens is covered',
  )
})

test('the picture moves to a find only where it is out of sight', () => {
  const panel = { width: 800, height: 450 }
  const view = { scale: 1, left: 0, top: 0 }
  expect(viewShowing(view, panel, 300, 200)).toBe(view)
  expect(viewShowing(view, panel, 1000, 200)).toEqual({ scale: 1, left: -600, top: 25 })
  expect(viewShowing(view, panel, 300, 200, 8)).toEqual({ scale: 8, left: -2000, top: -1375 })
})
