/** The painted set of LM_010: dusk sky, the town behind, tiled roofs in front, the paper moth. */
import { createRandom } from '../random'
import { rgb, svg } from '../svg'

/** Layers are larger than the frame by this on every side, so that the camera can drift. */
export const LAYER_MARGIN_PX = 60
const WIDTH = 1280 + 2 * LAYER_MARGIN_PX
const HEIGHT = 720 + 2 * LAYER_MARGIN_PX

/** Side of the square that the moth is painted in, and where its wing tips and body lie in it. */
export const MOTH = {
  sizePx: 420,
  centre: { x: 210, y: 205 },
  leftTip: { x: 64, y: 66 },
  rightTip: { x: 356, y: 66 },
} as const

export function paintSky(seed: number): string {
  const random = createRandom(seed)
  let clouds = ''
  for (let i = 0; i < 70; i++) {
    const y = 60 + random() * 520
    const warm = y / 600
    const colour = rgb(120 + 110 * warm, 96 + 60 * warm, 128 - 10 * warm)
    clouds += `<ellipse cx="${random() * WIDTH}" cy="${y}" rx="${90 + random() * 260}" ry="${3 + random() * 13}" fill="${colour}" opacity="${0.08 + random() * 0.22}"/>`
  }
  return svg(
    WIDTH,
    HEIGHT,
    `<defs><linearGradient id="dusk" x1="0" y1="0" x2="0" y2="1">
      <stop offset="0" stop-color="#3b4468"/><stop offset="0.28" stop-color="#6a6488"/>
      <stop offset="0.5" stop-color="#b98d8a"/><stop offset="0.72" stop-color="#e2ad86"/></linearGradient>
      <filter id="soft" x="-20%" y="-60%" width="140%" height="220%"><feGaussianBlur stdDeviation="9 3"/></filter></defs>
    <rect width="${WIDTH}" height="${HEIGHT}" fill="url(#dusk)"/><g filter="url(#soft)">${clouds}</g>`,
  )
}

export function paintFarTown(seed: number): string {
  const random = createRandom(seed)
  let body = ''
  for (let x = -40; x < WIDTH;) {
    const width = 60 + random() * 80
    const top = 262 + random() * 90
    const peak = 26 + random() * 34
    const shade = 0.8 + random() * 0.4
    body += `<path d="M${x} ${HEIGHT} V${top} L${x + width / 2} ${top - peak} L${x + width} ${top} V${HEIGHT} Z" fill="${rgb(96 * shade, 78 * shade, 92 * shade)}"/>`
    for (let row = 0; row < 3; row++) {
      if (random() < 0.45)
        body += `<rect x="${x + 12 + random() * (width - 30)}" y="${top + 14 + row * 26}" width="9" height="12" fill="#f3c77a" opacity="0.85"/>`
    }
    x += width * (0.7 + random() * 0.35)
  }
  return svg(WIDTH, HEIGHT, body)
}

interface Roof {
  readonly left: number
  readonly right: number
  readonly ridge: number
  readonly ridgeLeft: number
  readonly ridgeRight: number
  readonly tint: number
}

export function paintRoofs(seed: number): string {
  const random = createRandom(seed)
  const roofs: readonly Roof[] = [
    { left: -80, right: 520, ridge: 300, ridgeLeft: -80, ridgeRight: 430, tint: 0.92 },
    { left: 930, right: WIDTH + 80, ridge: 268, ridgeLeft: 985, ridgeRight: WIDTH + 80, tint: 0.86 },
    { left: 330, right: 1150, ridge: 342, ridgeLeft: 405, ridgeRight: 1065, tint: 1 },
  ]
  return svg(
    WIDTH,
    HEIGHT,
    chimney(1040, 178, random) +
      roofs.map((roof, index) => paintRoof(roof, index, random)).join('') +
      dormer(470, 610),
  )
}

const TILE = { width: 24, height: 17 } as const

/** Overlapping rows of rounded tiles, each with its own tone, under a dark ridge with cap tiles. */
function paintRoof(roof: Roof, index: number, random: () => number): string {
  const outline = `M${roof.ridgeLeft} ${roof.ridge} H${roof.ridgeRight} L${roof.right} ${HEIGHT} H${roof.left} Z`
  let tiles = ''
  for (let row = 0, y = roof.ridge + 4; y < HEIGHT; row++, y += TILE.height) {
    for (let x = roof.left - 60 + (row % 2 ? TILE.width / 2 : 0); x < roof.right + 60; x += TILE.width) {
      const tone = roof.tint * (0.72 + 0.42 * random()) * (random() < 0.06 ? 0.7 : 1)
      const hue = random()
      const [w, h, r] = [TILE.width - 1.6, TILE.height + 5, 7]
      tiles += `<path d="M${x} ${y} h${w} v${h - r} q0 ${r} ${-w / 2} ${r} q${-w / 2} 0 ${-w / 2} ${-r} Z" fill="${rgb((150 + 26 * hue) * tone, (88 + 16 * hue) * tone, (74 - 8 * hue) * tone)}" stroke="#3a2423" stroke-width="1.1" stroke-opacity="0.75"/>`
      if (random() < 0.3) {
        tiles += `<circle cx="${x + 4 + random() * 14}" cy="${y + 8 + random() * 9}" r="${0.8 + random() * 1.7}" fill="${random() < 0.5 ? '#8f8461' : '#40302c'}" opacity="0.7"/>`
      }
    }
  }
  // Rows lower down lie over those above: draw from the bottom, so that each round edge shows.
  const rows = tiles
    .split(/(?=<path)/)
    .reverse()
    .join('')
  let caps = ''
  for (let x = roof.ridgeLeft - 4; x < roof.ridgeRight; x += 30) {
    const tone = 0.85 + 0.3 * random()
    caps += `<rect x="${x}" y="${roof.ridge - 9}" width="28.5" height="15" rx="5" fill="${rgb(84 * tone, 62 * tone, 66 * tone)}" stroke="#2a1d20" stroke-width="1.2"/>`
  }
  return `<defs><clipPath id="roof${index}"><path d="${outline}"/></clipPath>
    <linearGradient id="light${index}" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="#ffb27a" stop-opacity="0.16"/><stop offset="1" stop-color="#120b18" stop-opacity="0.36"/></linearGradient></defs>
    <filter id="weather${index}" x="0" y="0" width="100%" height="100%"><feTurbulence type="fractalNoise" baseFrequency="0.28 0.34" numOctaves="3" seed="${11 + index}"/>
    <feColorMatrix values="0 0 0 0 0.12  0 0 0 0 0.07  0 0 0 0 0.06  0 0 0 1.5 -0.55"/></filter>
    <path d="${outline}" fill="#4b2f2c"/><g clip-path="url(#roof${index})">${rows}<rect x="${roof.left}" y="${roof.ridge}" width="${roof.right - roof.left}" height="${HEIGHT - roof.ridge}" filter="url(#weather${index})"/></g><path d="${outline}" fill="url(#light${index})"/>${caps}`
}

function chimney(x: number, y: number, random: () => number): string {
  let bricks = ''
  for (let row = 0; row < 12; row++) {
    for (let col = -1; col < 4; col++) {
      const tone = 0.75 + 0.4 * random()
      bricks += `<rect x="${x + col * 24 + (row % 2) * 12 + 0.8}" y="${y + row * 11 + 0.8}" width="22.4" height="9.4" fill="${rgb(118 * tone, 84 * tone, 80 * tone)}"/>`
    }
  }
  return `<defs><clipPath id="stack"><rect x="${x}" y="${y}" width="78" height="130"/></clipPath></defs>
    <rect x="${x}" y="${y}" width="78" height="130" fill="#55403f"/><g clip-path="url(#stack)">${bricks}</g>
    <rect x="${x - 7}" y="${y - 12}" width="92" height="14" rx="2" fill="#4a3638"/>`
}

function dormer(x: number, y: number): string {
  return `<path d="M${x - 46} ${y + 8} L${x} ${y - 40} L${x + 46} ${y + 8} Z" fill="#4a2e2c"/><rect x="${x - 32}" y="${y}" width="64" height="70" fill="#5d4a44"/>
    <rect x="${x - 20}" y="${y + 12}" width="40" height="46" fill="#f6cf83"/><path d="M${x} ${y + 12} v46 M${x - 20} ${y + 35} h40" stroke="#3a2a26" stroke-width="4"/>`
}

/** Cut paper: four wings with veins and eye spots, a felt body. */
export function paintMoth(seed: number): string {
  const random = createRandom(seed)
  const half = (mirror: boolean) => {
    let veins = ''
    for (let i = 0; i < 7; i++) {
      const endX = 96 + i * 12 + random() * 6
      veins += `<path d="M205 196 Q${150 + random() * 16} ${140 + i * 14} ${endX - 30} ${92 + i * 26}" stroke="#9b8468" stroke-width="1.6" fill="none" opacity="0.75"/>`
    }
    let fleck = ''
    for (let i = 0; i < 60; i++) {
      fleck += `<circle cx="${70 + random() * 130}" cy="${84 + random() * 140}" r="${0.6 + random() * 1.3}" fill="#a08a6c" opacity="${0.2 + random() * 0.35}"/>`
    }
    const wing = `<path d="M206 190 C176 120 110 62 52 70 C30 76 44 128 66 164 C84 190 150 210 206 206 Z" fill="#e9dcc0"/>
      <path d="M206 204 C160 210 108 226 104 262 C104 300 158 318 186 286 C200 268 206 236 206 210 Z" fill="#dccdb0"/>
      <clipPath id="wing${mirror}"><path d="M206 190 C176 120 110 62 52 70 C30 76 44 128 66 164 C84 190 150 210 206 206 Z"/></clipPath>
      <g clip-path="url(#wing${mirror})">${veins}${fleck}</g>
      <circle cx="112" cy="138" r="17" fill="#a9746c"/><circle cx="112" cy="138" r="8" fill="#5a3f45"/><circle cx="150" cy="262" r="11" fill="#a9746c"/>
      <path d="M206 190 C176 120 110 62 52 70" stroke="#c9b693" stroke-width="5" fill="none"/>`
    return mirror ? `<g transform="matrix(-1 0 0 1 420 0)">${wing}</g>` : wing
  }
  return svg(
    MOTH.sizePx,
    MOTH.sizePx,
    `${half(false)}${half(true)}<ellipse cx="210" cy="214" rx="13" ry="64" fill="#6b5248"/><ellipse cx="210" cy="160" rx="11" ry="14" fill="#4f3b36"/>
    <path d="M206 150 Q190 112 174 104 M214 150 Q230 112 246 104" stroke="#4f3b36" stroke-width="3" fill="none"/>`,
  )
}
