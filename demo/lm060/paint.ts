/** The painted market of LM_060: a plastered wall with shutters, and stalls with striped awnings and fruit before it. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'

const FRUIT = [
  [196, 92, 48],
  [210, 158, 62],
  [122, 138, 62],
  [148, 52, 50],
  [96, 74, 110],
] as const

export function paintWall(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  let body = `<defs>${roughness('plaster', 0.09, 4, seed % 997, 0.5)}<linearGradient id="wall" x1="0" y1="0" x2="0" y2="1">
    <stop offset="0" stop-color="#b98f62"/><stop offset="0.6" stop-color="#8d6a50"/><stop offset="1" stop-color="#5b463c"/></linearGradient></defs>
    <rect width="${width}" height="${height}" fill="url(#wall)"/><rect width="${width}" height="${height}" filter="url(#plaster)"/>`
  for (let x = 40; x < width; x += 232) {
    const tone = 0.8 + 0.4 * random()
    body += `<rect x="${x}" y="96" width="132" height="210" fill="${rgb(52 * tone, 84 * tone, 88 * tone)}" stroke="#d9c39a" stroke-width="8"/>`
    for (let y = 106; y < 300; y += 13)
      body += `<path d="M${x + 8} ${y} h54 M${x + 70} ${y} h54" stroke="${rgb(100 * tone, 138 * tone, 138 * tone)}" stroke-width="5"/>`
  }
  for (let i = 0; i < width / 6; i++)
    body += `<path d="M${random() * width} ${random() * height} q${random() * 12 - 6} ${random() * 14} ${random() * 20 - 10} ${8 + random() * 20}" fill="none" stroke="#3d2d24" stroke-width="${0.5 + random()}" opacity="${0.2 + 0.4 * random()}"/>`
  return svg(width, height, body)
}

/** Stalls from their awnings down; between and above them the wall shows. */
export function paintStalls(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  let body = `<defs>${roughness('wood', 0.05, 3, seed % 991, 0.6)}</defs>`
  for (let x = 10; x < width; x += 350) {
    const [r, g, b] = FRUIT[Math.floor(random() * FRUIT.length)]!
    for (let stripe = 0; stripe < 10; stripe++) {
      const fill = stripe % 2 === 0 ? rgb(r, g, b) : '#e4d8bd'
      body += `<path d="M${x + 30 * stripe} 330 l-14 78 q15 14 30 0 l14 -78 Z" fill="${fill}"/>`
    }
    body += `<rect x="${x + 6}" y="400" width="9" height="${height - 430}" fill="#4a3526"/><rect x="${x + 280}" y="400" width="9" height="${height - 430}" fill="#4a3526"/>`
    body += `<rect x="${x - 8}" y="520" width="310" height="${height - 520}" fill="#6a4b33"/><rect x="${x - 8}" y="520" width="310" height="${height - 520}" filter="url(#wood)"/>`
    for (let crate = 0; crate < 3; crate++) {
      const [cr, cg, cb] = FRUIT[Math.floor(random() * FRUIT.length)]!
      const left = x + 98 * crate
      for (let i = 0; i < 44; i++) {
        const tone = 0.7 + 0.55 * random()
        const [cx, cy, radius] = [left + 8 + random() * 78, 486 + random() * 44, 7 + 4 * random()]
        body += `<circle cx="${cx}" cy="${cy}" r="${radius}" fill="${rgb(cr * tone, cg * tone, cb * tone)}"/><circle cx="${cx - 2}" cy="${cy - 3}" r="${radius / 4}" fill="#fff" opacity="0.4"/>`
      }
      for (let row = 0; row < 3; row++)
        body += `<rect x="${left}" y="${534 + 22 * row}" width="92" height="15" fill="${rgb(150 + 30 * random(), 112, 72)}" stroke="#3c2a1c"/>`
    }
    for (let y = 604; y < height; y += 26)
      body += `<path d="M${x - 8} ${y} h310" stroke="#3a281b" stroke-width="2"/>`
  }
  return svg(width, height, body)
}

/** Strokes of capital letters in a box of 4 × 6. */
const LETTERS: Readonly<Record<string, string>> = {
  A: 'M0 6 L2 0 L4 6 M0.8 4 H3.2',
  C: 'M4 1 Q2 -0.6 0.6 1.4 Q-0.4 3 0.6 4.6 Q2 6.6 4 5',
  E: 'M4 0 H0 V6 H4 M0 3 H3',
  G: 'M4 1 Q2 -0.6 0.6 1.4 Q-0.4 3 0.6 4.6 Q2 6.6 4 5 V3.4 H2.4',
  L: 'M0 0 V6 H4',
  M: 'M0 6 V0 L2 3.4 L4 0 V6',
  N: 'M0 6 V0 L4 6 V0',
  O: 'M2 0 Q4 0 4 3 Q4 6 2 6 Q0 6 0 3 Q0 0 2 0',
  P: 'M0 6 V0 H2.4 Q4 0 4 1.6 Q4 3.2 2.4 3.2 H0',
  R: 'M0 6 V0 H2.4 Q4 0 4 1.6 Q4 3.2 2.4 3.2 H0 M2 3.2 L4 6',
  U: 'M0 0 V4 Q0 6 2 6 Q4 6 4 4 V0',
  Y: 'M0 0 L2 3 L4 0 M2 3 V6',
}

const words = (text: string, x: number, y: number, size: number, colour: string, stroke: number): string =>
  [...text]
    .map((letter, i) =>
      letter === ' '
        ? ''
        : `<g transform="translate(${x + i * 5.6 * size} ${y}) scale(${size})"><path d="${LETTERS[letter]}" fill="none" stroke="${colour}" stroke-width="${stroke}" stroke-linejoin="round" stroke-linecap="round"/></g>`,
    )
    .join('')

/** The mark in the corner: pale letters with a soft dark edge, in a frame. */
export const paintStillMark = (width: number, height: number): string =>
  svg(
    width,
    height,
    `<defs><filter id="edge" x="-10%" y="-20%" width="120%" height="140%"><feGaussianBlur stdDeviation="2.2"/></filter></defs>
    <g opacity="0.55" filter="url(#edge)">${words('GULLMERE', 18, 14, 4.6, '#000', 1.7)}${words('LOAN COPY', 18, 50, 4, '#000', 1.7)}</g>
    ${words('GULLMERE', 18, 14, 4.6, '#f4f1e6', 1.2)}${words('LOAN COPY', 18, 50, 4, '#f4f1e6', 1.2)}
    <rect x="6" y="4" width="${width - 12}" height="${height - 8}" rx="8" fill="none" stroke="#f4f1e6" stroke-width="3"/>`,
  )

/** The mark that travels: letters of one colour on a paler field. */
export const paintTravellingMark = (width: number, height: number): string =>
  svg(
    width,
    height,
    `<rect x="4" y="4" width="${width - 8}" height="${height - 8}" rx="14" fill="#5fb3c4" opacity="0.4"/>${words('LOAN COPY', 14, 22, 3.9, '#e9fbff', 1.3)}`,
  )
