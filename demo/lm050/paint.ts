/** What LM_050 is painted with: the face's parts and the wool on the head's chart, the lamplighter's collar, the wall behind. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'

/** The chart: px for one unit, and its whole side. */
export const CHART = { unitPx: 414, sizePx: 1200 } as const

const at = (value: number): string => (CHART.sizePx / 2 + CHART.unitPx * value).toFixed(1)
const long = (value: number): string => (CHART.unitPx * value).toFixed(1)
const chart = (body: string): string => svg(CHART.sizePx, CHART.sizePx, body)

/** Eyes, brows, lips and nostrils: what of the face is no skin. */
export function paintFeatures(seed: number): string {
  const random = createRandom(seed)
  let body = ''
  for (const side of [-1, 1]) {
    const [x, y] = [0.19 * side, -0.06]
    body += `<ellipse cx="${at(x)}" cy="${at(y)}" rx="${long(0.082)}" ry="${long(0.05)}" fill="#2c1a15"/>
      <ellipse cx="${at(x)}" cy="${at(y + 0.003)}" rx="${long(0.075)}" ry="${long(0.042)}" fill="#e9e2d6"/>
      <circle cx="${at(x + 0.006)}" cy="${at(y + 0.002)}" r="${long(0.038)}" fill="#3f6f86"/>
      <circle cx="${at(x + 0.006)}" cy="${at(y + 0.002)}" r="${long(0.036)}" fill="none" stroke="#1d3541" stroke-width="4"/>
      <circle cx="${at(x + 0.006)}" cy="${at(y + 0.002)}" r="${long(0.017)}" fill="#0c0b0d"/>
      <circle cx="${at(x - 0.008)}" cy="${at(y - 0.014)}" r="${long(0.009)}" fill="#fffdf2"/>`
    for (let i = 0; i < 120; i++) {
      const along = random()
      const [bx, by] = [
        side * (0.09 + 0.2 * along),
        -0.175 - 0.05 * along * (1 - 0.75 * along) * 2 + 0.036 * (random() - 0.5),
      ]
      const tone = 0.6 + 0.7 * random()
      body += `<path d="M${at(bx)} ${at(by)} q${(9 * side).toFixed(1)} ${(-7 - 4 * random()).toFixed(1)} ${((16 + 8 * random()) * side).toFixed(1)} ${(-3 + 6 * random()).toFixed(1)}" fill="none" stroke="${rgb(72 * tone, 46 * tone, 34 * tone)}" stroke-width="3.4"/>`
    }
    body += `<ellipse cx="${at(0.036 * side)}" cy="${at(0.212)}" rx="${long(0.02)}" ry="${long(0.012)}" fill="#3a1d16"/>`
  }
  const lip = (d: string, fill: string) => `<path d="${d}" fill="${fill}"/>`
  const corner = (side: number) => `${at(0.135 * side)} ${at(0.322)}`
  body += lip(
    `M${corner(-1)} Q${at(-0.06)} ${at(0.272)} ${at(-0.012)} ${at(0.288)} L${at(0.012)} ${at(0.288)} Q${at(0.06)} ${at(0.272)} ${corner(1)} Q${at(0)} ${at(0.345)} ${corner(-1)} Z`,
    '#9c4138',
  )
  body += lip(
    `M${corner(-1)} Q${at(0)} ${at(0.338)} ${corner(1)} Q${at(0)} ${at(0.425)} ${corner(-1)} Z`,
    '#ad4f44',
  )
  body += `<path d="M${corner(-1)} Q${at(0)} ${at(0.345)} ${corner(1)}" fill="none" stroke="#4a1712" stroke-width="5"/>`
  for (let i = 0; i < 26; i++) {
    const x = -0.11 + 0.22 * random()
    body += `<path d="M${at(x)} ${at(0.35)} l${(2 * random() - 1).toFixed(1)} ${(8 + 8 * random()).toFixed(1)}" stroke="#7d2f28" stroke-width="1.4" opacity="0.7"/>`
  }
  return chart(body)
}

/** Curls of wool above a line round the face. */
export function paintWool(seed: number): string {
  const random = createRandom(seed)
  const line = Array.from({ length: 61 }, (_, i) => (i - 30) / 20)
  let body = `<path d="M0 0 ${line.map((u) => `L${at(u)} ${at(hairline(u) - 0.03)}`).join(' ')} L${CHART.sizePx} 0 Z" fill="#3b281e"/>`
  for (let i = 0; i < 9000; i++) {
    const [u, v] = [3 * random() - 1.5, 2.1 * random() - 1.5]
    if (v > hairline(u) + 0.05 * (random() - 0.5)) continue
    const tone = 0.45 + 0.85 * random()
    const r = 5 + 6 * random()
    body += `<circle cx="${at(u)}" cy="${at(v)}" r="${r.toFixed(1)}" fill="${rgb(88 * tone, 60 * tone, 44 * tone)}"/>
      <path d="M${(Number(at(u)) - r * 0.6).toFixed(1)} ${at(v)} q${(r * 0.6).toFixed(1)} ${(-r * 1.4).toFixed(1)} ${(r * 1.2).toFixed(1)} 0" fill="none" stroke="${rgb(140 * tone, 102 * tone, 74 * tone)}" stroke-width="2.2"/>`
  }
  return chart(body)
}

/** v of the line above which there is wool: high over the brow, down beside the cheeks. */
function hairline(u: number): number {
  const beside = Math.abs(u)
  if (beside > 0.92) return 0.3
  return beside > 0.6 ? -0.33 + 0.63 * ((beside - 0.6) / 0.32) ** 2 : -0.47 + 0.39 * beside * beside
}

/** A coat and a thick knitted collar, up to the chin. */
export function paintCollar(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  const middle = width / 2
  let body = `<defs>${roughness('cloth', 0.5, 3, seed % 997, 0.5)}</defs>
    <path d="M${middle - 470} ${height} Q${middle - 420} 190 ${middle - 190} 150 L${middle + 190} 150 Q${middle + 420} 190 ${middle + 470} ${height} Z" fill="#27363d"/>
    <path d="M${middle - 470} ${height} Q${middle - 420} 190 ${middle - 190} 150 L${middle + 190} 150 Q${middle + 420} 190 ${middle + 470} ${height} Z" filter="url(#cloth)"/>`
  for (let row = 0; row < 7; row++) {
    for (let col = -9; col <= 9; col++) {
      const tone = 0.8 + 0.35 * random()
      const [x, y] = [middle + col * 26 + (row % 2) * 13, 62 + row * 19 + 0.32 * col * col]
      body += `<ellipse cx="${x}" cy="${y}" rx="13.5" ry="10.5" transform="rotate(${col * 3} ${x} ${y})" fill="${rgb(150 * tone, 58 * tone, 48 * tone)}" stroke="#5a1f1b" stroke-width="2"/>`
    }
  }
  return svg(width, height, body)
}

/** A plastered wall with a shelf of lamps, out of focus. */
export function paintWall(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  let body = `<defs>${roughness('plaster', 0.02, 5, seed % 997, 0.7)}</defs><rect width="${width}" height="${height}" fill="#54606a"/>
    <rect width="${width}" height="${height}" filter="url(#plaster)"/><rect y="250" width="${width}" height="22" fill="#4a3424"/>`
  for (let i = 0; i < 9; i++) {
    const [x, tall] = [40 + i * 150 + 40 * random(), 70 + 60 * random()]
    body += `<rect x="${x}" y="${250 - tall}" width="46" height="${tall}" rx="8" fill="${rgb(90 + 60 * random(), 74, 52)}"/><rect x="${x + 12}" y="${250 - tall + 18}" width="22" height="${tall - 34}" fill="#d9b36a"/>`
  }
  return svg(width, height, body)
}
