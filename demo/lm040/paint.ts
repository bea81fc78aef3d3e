/** The painted set of LM_040, one picture: night sky with stars and thin clouds, the town's roofs, lit windows. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'
import { LM_040, PAN_PX } from './scene'

/** The painting reaches this far beyond what the camera ever shows. */
export const MARGIN_PX = 20
const WIDTH = LM_040.width + PAN_PX + 2 * MARGIN_PX
const HEIGHT = LM_040.height + 2 * MARGIN_PX

export function paintTown(seed: number): string {
  const random = createRandom(seed)
  return svg(
    WIDTH,
    HEIGHT,
    sky(random) +
      houses(random, 330, 0.62, 120) +
      houses(random, 420, 0.86, 190) +
      houses(random, 545, 1, 280),
  )
}

function sky(random: () => number): string {
  let clouds = ''
  for (let i = 0; i < 46; i++) {
    const [x, y] = [random() * WIDTH, 40 + random() * 380]
    clouds += `<ellipse cx="${x}" cy="${y}" rx="${60 + random() * 190}" ry="${4 + random() * 12}" fill="#7d7a9a" opacity="${0.06 + random() * 0.16}"/>`
  }
  let stars = ''
  for (let i = 0; i < 340; i++) {
    const size = 0.6 + 1.1 * random() ** 3
    stars += `<circle cx="${random() * WIDTH}" cy="${random() * 400}" r="${size}" fill="${random() < 0.3 ? '#ffe6c4' : '#dfe6ff'}" opacity="${0.35 + 0.6 * random()}"/>`
  }
  return `<defs><linearGradient id="night" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#2c3455"/>
    <stop offset="0.35" stop-color="#454a70"/><stop offset="0.62" stop-color="#6a6188"/></linearGradient>
    <filter id="soft" x="-10%" y="-80%" width="120%" height="260%"><feGaussianBlur stdDeviation="10 3"/></filter></defs>
    <rect width="${WIDTH}" height="${HEIGHT}" fill="url(#night)"/><g filter="url(#soft)">${clouds}</g>${stars}`
}

const TILE = { width: 19, height: 13 } as const

/** A row of houses from left to right: a gable or a long roof each, tiles above, a wall with windows below. */
function houses(random: () => number, eaves: number, near: number, widest: number): string {
  let body = ''
  for (let x = -60, index = 0; x < WIDTH + 60; index++) {
    const width = widest * (0.6 + 0.6 * random())
    const [foot, rise] = [eaves + (random() - 0.5) * 60, 40 + 60 * near * random()]
    const tone = near * (0.85 + 0.3 * random())
    const id = `roof${Math.round(near * 100)}-${index}`
    const overhang = 10 * near
    const outline = `M${x - overhang} ${foot} L${x + width * 0.2} ${foot - rise} H${x + width * (0.5 + 0.35 * random())} L${x + width + overhang} ${foot} Z`
    let tiles = ''
    for (let row = 0, y = foot - rise; y < foot; row++, y += TILE.height * near) {
      for (
        let tx = x - 20 + (row % 2) * TILE.width * 0.5 * near;
        tx < x + width + 20;
        tx += TILE.width * near
      ) {
        const shade = tone * (0.75 + 0.5 * random())
        tiles += `<rect x="${tx}" y="${y}" width="${TILE.width * near - 1.2}" height="${TILE.height * near - 1}" rx="2" fill="${rgb(66 * shade, 58 * shade, 78 * shade)}"/>`
      }
    }
    let windows = ''
    for (let wy = foot + 18 * near; wy < HEIGHT; wy += 46 * near) {
      for (let wx = x + 14 * near; wx + 16 * near < x + width; wx += (30 + 26 * random()) * near) {
        const isLit = random() < 0.3
        windows += `<rect x="${wx}" y="${wy}" width="${14 * near}" height="${20 * near}" fill="${isLit ? '#e8b464' : rgb(30 * tone, 30 * tone, 44 * tone)}" opacity="${isLit ? 0.6 + 0.35 * random() : 0.9}"/>
          <path d="M${wx + 7 * near} ${wy} v${20 * near} M${wx} ${wy + 10 * near} h${14 * near}" stroke="${rgb(38 * tone, 32 * tone, 40 * tone)}" stroke-width="1.6"/>`
      }
    }
    body += `<rect x="${x}" y="${foot}" width="${width}" height="${HEIGHT - foot}" fill="${rgb(72 * tone, 64 * tone, 82 * tone)}"/>
      ${roughness(`wall${id}`, 0.11, 3, 7 + index, 0.75)}<rect x="${x}" y="${foot}" width="${width}" height="${HEIGHT - foot}" filter="url(#wall${id})"/>${windows}
      <defs><clipPath id="${id}"><path d="${outline}"/></clipPath></defs><path d="${outline}" fill="${rgb(34 * tone, 28 * tone, 40 * tone)}"/>
      <g clip-path="url(#${id})">${tiles}</g>`
    x += width * (0.92 + 0.1 * random())
  }
  return body
}
