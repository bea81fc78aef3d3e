import { pulled, turned, zoomed } from './turning'

const view = { headingDeg: 170, pitchDeg: 0, angleDeg: 90 }

test('a heading goes round', () => {
  expect([190, -190, 540, 179, -180].map(turned)).toEqual([-170, 170, -180, 179, -180])
})

test('a pull to the left looks to the right, over the seam; a pull down looks up, as far as the pole', () => {
  expect(pulled(view, -100, 0, 450)).toEqual({ headingDeg: -170, pitchDeg: 0, angleDeg: 90 })
  expect(pulled(view, 0, 100, 450).pitchDeg).toBe(20)
  expect(pulled({ ...view, pitchDeg: 85 }, 0, 100, 450).pitchDeg).toBe(90)
  // At 60° up the same pull turns twice as far.
  expect(pulled({ ...view, headingDeg: 0, pitchDeg: 60 }, -100, 0, 450).headingDeg).toBe(40)
})

test('nearer and further stay within what a straight view can be', () => {
  expect(zoomed(view, -1).angleDeg).toBe(82)
  expect(zoomed(view, 50).angleDeg).toBe(130)
  expect(zoomed(view, -50).angleDeg).toBe(20)
})
