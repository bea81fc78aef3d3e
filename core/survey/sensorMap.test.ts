import type { Find } from './finds'
import {
  findsOfMap,
  mapFromFinds,
  mapToCsv,
  mergeMaps,
  readSensorMap,
  sensorMapSchema,
  type SensorMap,
} from './sensorMap'

const PLATE = { width: 1280, height: 720, firstFrame: 1001, lastFrame: 1048 }
const always = { firstFrame: 1001, lastFrame: 1048, sure: 1, why: '' }
const finds: Find[] = [
  { kind: 'pixel', id: 'a', x: 640.5, y: 360.5, class: 'hot', widthPx: 3, heightPx: 3, ...always },
  { kind: 'pixel', id: 'b', x: 10.5, y: 20.5, class: 'stuck-red', widthPx: 3, heightPx: 3, ...always },
  {
    kind: 'mote',
    id: 'c',
    x: 300,
    y: 200,
    radiusXPx: 24,
    radiusYPx: 20,
    turnDeg: 15,
    depthStops: -0.7,
    ...always,
  },
  { kind: 'mark', id: 'd', x: 100, y: 100, widthPx: 60, heightPx: 20, opacity: 0.5, ...always },
]
const about = { camera: 'B cam, “old”', madeOn: '2026-11-03', sensor: { width: 2560, height: 1440 } }
const map = mapFromFinds(finds, PLATE, { ...about, readout: 'scaled' })

test('a map holds what belongs to the camera, in px of its sensor, and gives the plate the same places again', () => {
  expect(sensorMapSchema.parse(map)).toEqual(map)
  expect(map.pixels[0]).toEqual({ x: 1281, y: 721, class: 'hot', widthPx: 6, heightPx: 6 })
  expect(map.motes).toEqual([{ x: 600, y: 400, radiusXPx: 48, radiusYPx: 40, turnDeg: 15, depthStops: -0.7 }])
  const again = findsOfMap(map, PLATE, 'scaled')
  expect(again).toMatchObject(finds.slice(0, 3).map(({ id: _, why: __, ...rest }) => rest))
  expect(again[0]).toMatchObject({ id: 'px-640-360', why: 'On the sensor map of B cam, “old”, 2026-11-03.' })
})

test('a cropped readout shows the middle pixel for pixel; what it does not show is left out', () => {
  const cropped = findsOfMap(map, PLATE, 'cropped')
  // The sensor's middle is the plate's.
  expect(cropped).toHaveLength(1)
  expect(cropped[0]).toMatchObject({ kind: 'pixel', x: 641, y: 361, widthPx: 6 })
  expect(mapFromFinds(cropped, PLATE, { ...about, readout: 'cropped' }).pixels).toEqual([map.pixels[0]])
})

test('a pixel of a sensor that is shown much smaller still covers what demosaicing has spread', () => {
  expect(findsOfMap(map, { ...PLATE, width: 640, height: 360 }, 'scaled')[0]).toMatchObject({
    widthPx: 3,
    heightPx: 3,
  })
})

test('merged, pixels of either map are bad and the dust is that of the later one', () => {
  const later: SensorMap = {
    ...map,
    madeOn: '2026-11-20',
    pixels: [{ ...map.pixels[0]!, x: 1282, class: 'cluster' }],
    motes: [{ ...map.motes[0]!, x: 900 }],
  }
  for (const merged of [mergeMaps(map, later), mergeMaps(later, map)]) {
    expect(merged.madeOn).toBe('2026-11-20')
    expect(merged.pixels.map(({ x, class: kind }) => [x, kind])).toEqual([
      [1282, 'cluster'],
      [21, 'stuck-red'],
    ])
    expect(merged.motes).toEqual(later.motes)
  }
  expect(() => mergeMaps(map, { ...later, sensor: { width: 1920, height: 1080 } })).toThrow(/1920 × 1080/)
})

test('as JSON and as a table it comes back as it went, quotes and commas in the name included', () => {
  expect(readSensorMap(JSON.stringify(map))).toEqual({ ok: true, map })
  const csv = mapToCsv(map)
  // RFC 4180, 2.6: fields with commas are enclosed in double quotes.
  expect(csv.split('\n')[1]).toMatch(/^"B cam, “old”",2026-11-03,2560,1440,pixel,hot,1281,721,6,6,,$/)
  expect(readSensorMap(csv)).toEqual({ ok: true, map })
  expect(readSensorMap(csv.replaceAll('\n', '\r\n'))).toEqual({ ok: true, map })
})

test.each([
  ['{"format"', 'It is not JSON.'],
  ['x,y\n1,2\n', 'lacks the columns camera, made_on'],
  [mapToCsv(map).split('\n')[0]!, 'no line'],
  [mapToCsv(map).replace('pixel,hot', 'pixel,lazy'), 'pixels.0.class'],
  [mapToCsv(map).replace('1281,721', ',721'), 'pixels.0.x'],
  [mapToCsv(map).replace(',mote,', ',hair,'), 'of the kind “hair”'],
  [JSON.stringify({ ...map, madeOn: 'yesterday' }), 'madeOn'],
])('what cannot be used is refused in words: %#', (text, words) => {
  const result = readSensorMap(text)
  expect(result.ok ? '' : result.detail).toContain(words)
})
