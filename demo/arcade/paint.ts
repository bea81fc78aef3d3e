/** The painted arcade: a frescoed wall behind a row of columns, and flagstones before it. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'

/** Where the wall meets the floor, where the columns stand, and the height of the eye, px of the frame. */
export const WALL_FOOT = 474
export const COLUMN_FOOT = 566
export const EYE_LEVEL = 236

const COLUMN_APART = 312
const COLUMN_WIDE = 62
const ARCH_TOP = 44

/** The wall from the top of the frame down to its foot: plaster, courses of brick, niches and painted moths. */
export function paintWall(width: number, seed: number): string {
  const random = createRandom(seed)
  let bricks = ''
  for (let row = 0; row < 8; row++) {
    for (let x = -30 + (row % 2) * 21; x < width; x += 43) {
      const tone = 0.75 + 0.45 * random()
      bricks += `<rect x="${x}" y="${356 + row * 15}" width="41" height="13.4" rx="1.5" fill="${rgb(134 * tone, 82 * tone, 62 * tone)}"/>`
    }
  }
  let niches = ''
  for (let x = 84; x < width - 80; x += 208) {
    const tone = 0.85 + 0.3 * random()
    niches += `<path d="M${x} 330 V196 a46 46 0 0 1 92 0 V330 Z" fill="${rgb(58 * tone, 76 * tone, 84 * tone)}"/><path d="M${x} 330 V196 a46 46 0 0 1 92 0 V330" fill="none" stroke="#d7b98a" stroke-width="7"/>`
    for (let i = 0; i < 26; i++)
      niches += `<path d="M${x + 8 + random() * 76} ${190 + random() * 132} l${random() * 18 - 9} ${random() * 14}" stroke="#9fb4b0" stroke-width="${0.7 + random() * 1.4}" opacity="0.55"/>`
    niches += `<path d="M${x + 46} 262 q-30 -32 -36 2 q12 22 36 12 q24 10 36 -12 q-6 -34 -36 -2" fill="${rgb(186, 150 + random() * 30, 96)}" opacity="0.8"/>`
  }
  let stencil = ''
  for (let x = 14; x < width; x += 38)
    stencil += `<path d="M${x} 132 l12 -14 l12 14 l-12 14 Z" fill="${rgb(120 + 50 * random(), 70, 52)}" opacity="0.75"/><circle cx="${x + 31}" cy="132" r="3.4" fill="#3f6466"/>`
  let cracks = ''
  for (let i = 0; i < width / 9; i++)
    cracks += `<path d="M${random() * width} ${20 + random() * 320} q${random() * 14 - 7} ${random() * 16} ${random() * 22 - 11} ${8 + random() * 24}" fill="none" stroke="#5a4331" stroke-width="${0.5 + random() * 1.2}" opacity="${0.2 + 0.45 * random()}"/>`
  return svg(
    width,
    WALL_FOOT,
    `${roughness('plaster', 0.045, 5, seed % 97, 0.6)}${roughness('fine', 0.4, 3, (seed % 61) + 2, 0.7)}
    <rect width="${width}" height="${WALL_FOOT}" fill="#b89a70"/><rect width="${width}" height="${WALL_FOOT}" filter="url(#plaster)"/>
    <rect y="112" width="${width}" height="40" fill="#caa873"/><path d="M0 112 h${width} M0 152 h${width}" stroke="#6f4c34" stroke-width="3"/>${stencil}${cracks}${niches}
    <rect y="350" width="${width}" height="124" fill="#4a382e"/>${bricks}<path d="M0 350 h${width}" stroke="#dcc49a" stroke-width="6"/>
    <rect width="${width}" height="${WALL_FOOT}" filter="url(#fine)" opacity="0.5"/>`,
  )
}

/** Flagstones from the wall's foot to the bottom of the frame, in perspective about the middle of the layer. */
export function paintFloor(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  const middle = width / 2
  // Rows lie at equal distances on the ground: their heights grow as 1 / distance.
  const far = WALL_FOOT - EYE_LEVEL
  const yAt = (row: number) => EYE_LEVEL + far / (1 - row * 0.055)
  let stones = ''
  for (let row = 0; yAt(row) < height + 20 && row < 18; row++) {
    const [top, bottom] = [yAt(row), yAt(row + 1)]
    const [wideTop, wideBottom] = [0.3 * (top - EYE_LEVEL), 0.3 * (bottom - EYE_LEVEL)]
    const shift = (row % 2) * 0.5
    for (let i = -60; i < 60; i++) {
      const at = (u: number, wide: number) => middle + (i + shift + u) * wide
      if (at(1, wideTop) < -40 || at(0, wideTop) > width + 40) continue
      const tone = 0.7 + 0.42 * random()
      const [gapTop, gapBottom] = [0.02, 0.02]
      stones += `<path d="M${at(gapTop, wideTop)} ${top + 0.8} L${at(1 - gapTop, wideTop)} ${top + 0.8} L${at(1 - gapBottom, wideBottom)} ${bottom - 1} L${at(gapBottom, wideBottom)} ${bottom - 1} Z" fill="${rgb(116 * tone + 8 * random(), 108 * tone, 100 * tone)}"/>`
      for (let k = 0; k < 3; k++) {
        const [u, v] = [0.1 + 0.7 * random(), random()]
        const y = top + 2 + v * (bottom - top - 5)
        const wide = wideTop + v * (wideBottom - wideTop)
        stones += `<path d="M${at(u, wide)} ${y} l${wide * 0.16 * random()} ${2 * random() - 1}" stroke="${random() < 0.5 ? '#3b342f' : '#cfc5b4'}" stroke-width="${0.8 + random()}" opacity="${0.25 + 0.4 * random()}"/>`
      }
    }
  }
  return svg(
    width,
    height,
    `${roughness('stone', 0.3, 4, (seed % 89) + 3, 0.8)}<rect y="${WALL_FOOT}" width="${width}" height="${height - WALL_FOOT}" fill="#26211e"/>${stones}
    <rect y="${WALL_FOOT}" width="${width}" height="${height - WALL_FOOT}" filter="url(#stone)" opacity="0.6"/>
    <rect y="${WALL_FOOT}" width="${width}" height="7" fill="#1d1815" opacity="0.7"/>`,
  )
}

/** Columns and the arches that they carry; clear between them. @param firstX  Middle of the first column. */
export function paintColumns(width: number, firstX: number, seed: number): string {
  const random = createRandom(seed)
  let out = ''
  let lights = ''
  for (let x = firstX; x < width + COLUMN_APART; x += COLUMN_APART) {
    const half = COLUMN_WIDE / 2
    const tone = 0.9 + 0.2 * random()
    lights += `<linearGradient id="c${x}"><stop offset="0" stop-color="${rgb(92 * tone, 82 * tone, 74 * tone)}"/><stop offset="0.35" stop-color="${rgb(186 * tone, 168 * tone, 142 * tone)}"/><stop offset="1" stop-color="${rgb(70 * tone, 62 * tone, 58 * tone)}"/></linearGradient>`
    out += `<rect x="${x - half}" y="200" width="${COLUMN_WIDE}" height="${COLUMN_FOOT - 222}" fill="url(#c${x})"/>
      <rect x="${x - half - 10}" y="180" width="${COLUMN_WIDE + 20}" height="22" fill="#8d7c66"/><rect x="${x - half - 12}" y="${COLUMN_FOOT - 24}" width="${COLUMN_WIDE + 24}" height="24" fill="#75685a"/>
      <path d="M${x - half - 12} ${COLUMN_FOOT - 24} h${COLUMN_WIDE + 24}" stroke="#b7a689" stroke-width="2"/>`
    for (let y = 226; y < COLUMN_FOOT - 40; y += 54 + random() * 30)
      out += `<path d="M${x - half} ${y} h${COLUMN_WIDE}" stroke="#463c35" stroke-width="2" opacity="0.7"/>`
    for (let i = 0; i < 40; i++)
      out += `<path d="M${x - half + 4 + random() * (COLUMN_WIDE - 10)} ${210 + random() * (COLUMN_FOOT - 260)} l${random() * 6 - 3} ${4 + random() * 16}" stroke="${random() < 0.4 ? '#e6d8bc' : '#3f352e'}" stroke-width="${0.6 + random()}" opacity="0.45"/>`
  }
  const inner = COLUMN_APART - COLUMN_WIDE - 8
  let openings = ''
  let stones = ''
  for (let x = firstX - COLUMN_APART; x < width + COLUMN_APART; x += COLUMN_APART) {
    const [left, radius] = [x + COLUMN_WIDE / 2 + 4, inner / 2]
    openings += `M${left} 182 A${radius} ${182 - ARCH_TOP} 0 0 1 ${left + inner} 182 Z `
    for (let k = 1; k < 9; k++) {
      const turn = Math.PI * (1 - k / 9)
      const [c, s] = [Math.cos(turn), Math.sin(turn)]
      const [mx, my] = [left + radius, 182]
      stones += `<path d="M${mx + radius * c} ${my - (182 - ARCH_TOP) * s} L${mx + (radius + 26) * c} ${my - (208 - ARCH_TOP) * s}" stroke="#4b4038" stroke-width="2"/>`
    }
  }
  return svg(
    width,
    600,
    `<defs>${lights}<clipPath id="arches"><path d="M0 0 H${width} V182 H0 Z ${openings}" clip-rule="evenodd"/></clipPath></defs>
    ${roughness('worn', 0.12, 4, (seed % 71) + 5, 0.7)}
    <g clip-path="url(#arches)"><rect width="${width}" height="182" fill="#96836a"/><rect width="${width}" height="182" filter="url(#worn)"/>${stones}</g>${out}`,
  )
}
