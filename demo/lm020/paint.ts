/** The painted set of LM_020: shop front with shutters and tiles, doorstep, cobbles; cart, clamp, rod, banner. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'
import { BANNER, LM_020 } from './scene'

const { width: WIDTH, height: HEIGHT } = LM_020

/** Where the pavement begins; the wall's plinth stands on it. */
const GROUND = 486
/** The cart's layer begins here, so that it can rock without its edge showing. */
export const CART_AT = { x: 300, y: 230 } as const
export const CLAMP_AT = { x: 888, y: 440 } as const

export function paintShop(seed: number): string {
  const random = createRandom(seed)
  return svg(
    WIDTH,
    HEIGHT,
    `${roughness('plaster', 0.05, 5, seed % 97, 0.5)}${roughness('stone', 0.35, 4, (seed % 89) + 3, 0.9)}
    <defs><radialGradient id="lamp" cx="0.86" cy="0.14" r="0.9"><stop offset="0" stop-color="#ffdca0" stop-opacity="0.5"/><stop offset="0.35" stop-color="#ffb36b" stop-opacity="0.18"/><stop offset="1" stop-color="#0c0a1c" stop-opacity="0.42"/></radialGradient></defs>
    <rect width="${WIDTH}" height="${GROUND}" fill="#a58f78"/><rect width="${WIDTH}" height="${GROUND}" filter="url(#plaster)"/>
    ${shutters(random)}${tiles(random)}${door(random)}${lantern()}${cobbles(random)}${doorstep()}
    <rect y="${GROUND}" width="${WIDTH}" height="${HEIGHT - GROUND}" filter="url(#stone)" opacity="0.55"/>
    <rect width="${WIDTH}" height="${HEIGHT}" fill="url(#lamp)"/>`,
  )
}

function shutters(random: () => number): string {
  let boards = ''
  for (let x = 250; x < 810; x += 36) {
    const tone = 0.85 + 0.3 * random()
    boards += `<rect x="${x}" y="70" width="34.6" height="290" fill="${rgb(62 * tone, 92 * tone, 92 * tone)}"/>`
    for (let i = 0; i < 14; i++) {
      const y = 74 + random() * 280
      boards += `<path d="M${x + 3 + random() * 28} ${y} v${8 + random() * 40}" stroke="#1d3334" stroke-width="${0.6 + random()}" opacity="0.5"/>`
    }
  }
  return `<rect x="238" y="58" width="590" height="314" fill="#3c2d26"/>${boards}
    <rect x="246" y="112" width="574" height="20" fill="#36595a"/><rect x="246" y="300" width="574" height="20" fill="#36595a"/>
    ${Array.from({ length: 16 }, (_, i) => `<circle cx="${268 + 36 * i}" cy="122" r="3" fill="#1c2b2c"/><circle cx="${268 + 36 * i}" cy="310" r="3" fill="#1c2b2c"/>`).join('')}`
}

/** Glazed tiles under the shutters. */
function tiles(random: () => number): string {
  let out = `<rect y="372" width="846" height="${GROUND - 372}" fill="#43372f"/>`
  for (let row = 0; row < 4; row++) {
    for (let x = -14 + (row % 2) * 14; x < 846; x += 29) {
      const tone = 0.8 + 0.4 * random()
      const y = 374 + row * 28
      out += `<rect x="${x}" y="${y}" width="27" height="26" rx="2" fill="${rgb(126 * tone, 70 * tone, 58 * tone)}"/><path d="M${x + 3} ${y + 22} V${y + 3} H${x + 23}" stroke="#d9a58a" stroke-width="1.6" fill="none" opacity="${0.25 + 0.4 * random()}"/>`
    }
  }
  return out
}

function door(random: () => number): string {
  let planks = ''
  for (let x = 872; x < 1060; x += 31) {
    const tone = 0.8 + 0.35 * random()
    planks += `<rect x="${x}" y="130" width="29.4" height="346" fill="${rgb(112 * tone, 72 * tone, 48 * tone)}"/>`
    for (let i = 0; i < 22; i++) {
      planks += `<path d="M${x + 2 + random() * 25} ${134 + random() * 320} q${random() * 4 - 2} 12 0 ${10 + random() * 30}" stroke="#3a2114" stroke-width="${0.5 + random()}" fill="none" opacity="0.55"/>`
    }
  }
  return `<rect x="850" y="108" width="232" height="378" fill="#54402f"/>${planks}<rect x="870" y="196" width="190" height="14" fill="#2c2622"/><rect x="870" y="398" width="190" height="14" fill="#2c2622"/><circle cx="1036" cy="318" r="8" fill="#c79a4b"/>`
}

const lantern = () =>
  `<path d="M1140 60 h36 l8 60 h-52 Z" fill="#ffd894"/><path d="M1140 60 h36 l8 60 h-52 Z M1158 60 v60" fill="none" stroke="#241c18" stroke-width="4"/><path d="M1158 60 V26 h60" stroke="#241c18" stroke-width="5" fill="none"/>`

function doorstep(): string {
  return `<path d="M776 478 H1156 L1172 524 H760 Z" fill="#8b8378"/><path d="M760 524 H1172 V556 H760 Z" fill="#625b54"/><path d="M776 478 H1156" stroke="#b9b0a2" stroke-width="2"/><path d="M760 524 H1172" stroke="#aaa294" stroke-width="2.5"/>
    <path d="M870 482 l-8 40 M1076 480 l6 43" stroke="#4b453f" stroke-width="1.6"/>`
}

/** Rows of rounded stones that grow towards the camera, each with its own tone, light edge and dark gap. */
function cobbles(random: () => number): string {
  let out = `<rect y="${GROUND}" width="${WIDTH}" height="${HEIGHT - GROUND}" fill="#2c2724"/>`
  for (let y = GROUND - 2, row = 0; y < HEIGHT; row++) {
    const high = 15 + row * 1.5
    const wide = high * 1.55
    for (let x = -wide * ((row % 2) / 2 + 0.3); x < WIDTH + wide;) {
      const w = wide * (0.8 + 0.4 * random())
      const tone = 0.66 + 0.5 * random()
      const warm = random() * 14
      out += `<rect x="${x + 1.3}" y="${y + 1.3}" width="${w - 2.6}" height="${high - 2}" rx="${high * 0.36}" fill="${rgb((112 + warm) * tone, 104 * tone, (98 - warm / 2) * tone)}"/>
        <path d="M${x + w * 0.2} ${y + 4} h${w * 0.5}" stroke="#d8cbb4" stroke-width="${1 + high / 20}" stroke-linecap="round" opacity="${0.15 + 0.3 * random()}"/>`
      x += w
    }
    y += high
  }
  return out
}

/** A tin box on a wheel, with handles to the right. */
export function paintCart(seed: number): string {
  const random = createRandom(seed)
  let ribs = ''
  for (let x = 40; x < 400; x += 30) {
    const tone = 0.9 + 0.2 * random()
    ribs += `<rect x="${x}" y="92" width="28" height="112" fill="${rgb(138 * tone, 146 * tone, 150 * tone)}"/><path d="M${x + 4} 94 v108" stroke="#e4ebee" stroke-width="2" opacity="0.5"/><circle cx="${x + 14}" cy="100" r="2.4" fill="#4a5054"/><circle cx="${x + 14}" cy="196" r="2.4" fill="#4a5054"/>`
  }
  let spokes = ''
  for (let i = 0; i < 6; i++)
    spokes += `<path d="M128 272 m-74 0 h148" transform="rotate(${i * 30 + 8} 128 272)" stroke="#6b4a32" stroke-width="7"/>`
  return svg(
    540,
    380,
    `<path d="M398 118 L524 96" stroke="#5d4230" stroke-width="12" stroke-linecap="round"/><path d="M398 178 L520 168" stroke="#4c3526" stroke-width="11" stroke-linecap="round"/>
    <path d="M30 88 H404 L394 208 H44 Z" fill="#7c8488"/><clipPath id="box"><path d="M30 88 H404 L394 208 H44 Z"/></clipPath><g clip-path="url(#box)">${ribs}
    <path d="M60 150 q40 -30 80 6 t90 -8" stroke="#8a5b3a" stroke-width="9" fill="none" opacity="0.4"/></g>
    <rect x="24" y="80" width="388" height="14" rx="5" fill="#a8b1b5"/><rect x="40" y="202" width="358" height="14" rx="3" fill="#3c3330"/>
    ${spokes}<circle cx="128" cy="272" r="78" fill="none" stroke="#4c3324" stroke-width="14"/><circle cx="128" cy="272" r="84" fill="none" stroke="#2b2a2b" stroke-width="4"/><circle cx="128" cy="272" r="15" fill="#3a2c24"/>`,
  )
}

/** A steel screw clamp lying on the step, with the soft shadow that goes with it. */
export const paintClamp = (): string =>
  svg(
    160,
    140,
    `<defs><filter id="soft" x="-40%" y="-80%" width="180%" height="260%"><feGaussianBlur stdDeviation="4"/></filter></defs>
    <ellipse cx="80" cy="96" rx="42" ry="6" fill="#0b0908" opacity="0.6" filter="url(#soft)"/>
    <path d="M40 90 V46 q0 -8 8 -8 H104 v12 H54 V90 Z" fill="#c43d31"/><path d="M44 88 V48 q0 -6 6 -6 h50" stroke="#ef8d78" stroke-width="2.5" fill="none"/>
    <rect x="36" y="84" width="30" height="11" rx="2" fill="#a93227"/><rect x="92" y="34" width="11" height="56" fill="#8d969b"/>
    ${Array.from({ length: 9 }, (_, i) => `<path d="M91 ${41 + i * 5.4} l13 3" stroke="#454c50" stroke-width="1.6"/>`).join('')}
    <rect x="80" y="88" width="36" height="8" rx="3" fill="#70787d"/><path d="M84 29 h27" stroke="#d3dade" stroke-width="6" stroke-linecap="round"/>`,
  )

/** The rod upright, 24 px wide, lit from the right; it is turned into place. */
export const ROD_LAYER = { width: 64, height: 300, topAt: { x: 32, y: 20 }, lengthPx: 240 } as const
export const paintRod = (): string =>
  svg(
    ROD_LAYER.width,
    ROD_LAYER.height,
    `<defs><linearGradient id="round"><stop offset="0" stop-color="#2b2f33"/><stop offset="0.45" stop-color="#6d767c"/><stop offset="0.72" stop-color="#c8d0d4"/><stop offset="1" stop-color="#4b5257"/></linearGradient></defs>
    <rect x="20" y="20" width="24" height="${ROD_LAYER.lengthPx}" fill="url(#round)"/><rect x="20" y="96" width="24" height="9" fill="#25282b"/>`,
  )

/** Paper bunting without words: stripes and a printed moth. */
export function paintBanner(seed: number): string {
  const random = createRandom(seed)
  let flecks = ''
  for (let i = 0; i < 160; i++)
    flecks += `<circle cx="${random() * BANNER.widthPx}" cy="${random() * BANNER.heightPx}" r="${0.5 + random()}" fill="#7d6a50" opacity="${0.15 + 0.3 * random()}"/>`
  return svg(
    BANNER.widthPx + 20,
    BANNER.heightPx + 20,
    `<g transform="translate(10 10)"><rect width="${BANNER.widthPx}" height="${BANNER.heightPx}" fill="#e6d6b4"/><rect y="10" width="${BANNER.widthPx}" height="16" fill="#b5483c"/><rect y="${BANNER.heightPx - 26}" width="${BANNER.widthPx}" height="16" fill="#b5483c"/>
    <path d="M165 66 q-40 -38 -62 -8 q14 26 62 20 q48 6 62 -20 q-22 -30 -62 8" fill="#3f5f66"/>${flecks}</g>`,
  )
}
