/** The painted square of LM_030: cobbles in rings round a fountain, and in rows. */
import { createRandom } from '../random'
import { rgb, roughness, svg } from '../svg'

const FOUNTAIN = { x: 980, y: 470, radius: 150 } as const
const COBBLE_PX = 26

export function paintSquare(width: number, height: number, seed: number): string {
  const random = createRandom(seed)
  let body = `<defs>${roughness('stone', 0.08, 4, seed % 997, 0.55)}</defs><rect width="${width}" height="${height}" fill="#5a5148"/>`
  for (let row = 0; row * COBBLE_PX < height; row++) {
    for (let col = -1; col * COBBLE_PX < width; col++) {
      const tone = 0.78 + 0.4 * random()
      const [x, y] = [col * COBBLE_PX + (row % 2) * 13 + 2 * random() - 1, row * COBBLE_PX + 2 * random() - 1]
      const [w, h] = [20 + 3.5 * random(), 20 + 3.5 * random()]
      body += `<rect x="${x}" y="${y}" width="${w}" height="${h}" rx="6" fill="${rgb(162 * tone, 148 * tone, (118 + 26 * random()) * tone)}"/>`
    }
  }
  body += ringsOfStone(random) + strewn(width, height, random)
  return svg(width, height, `${body}<rect width="${width}" height="${height}" filter="url(#stone)"/>`)
}

function ringsOfStone(random: () => number): string {
  const { x, y, radius } = FOUNTAIN
  let body = `<circle cx="${x}" cy="${y}" r="${radius + 44}" fill="#6d6257"/>`
  for (let i = 0; i < 44; i++) {
    const tone = 0.85 + 0.3 * random()
    body += `<rect x="${radius + 4}" y="-11" width="36" height="22" rx="5" fill="${rgb(186 * tone, 170 * tone, 140 * tone)}" transform="translate(${x} ${y}) rotate(${(360 * i) / 44})"/>`
  }
  body += `<circle cx="${x}" cy="${y}" r="${radius}" fill="#3f6b70"/>`
  for (let i = 0; i < 60; i++) {
    const [turn, far] = [360 * random(), 20 + (radius - 40) * random()]
    body += `<path d="M${far} 0 q8 ${4 + 6 * random()} ${14 + 10 * random()} 0" transform="translate(${x} ${y}) rotate(${turn})" fill="none" stroke="#86b0ac" stroke-width="1.6" opacity="${0.4 + 0.5 * random()}"/>`
  }
  return `${body}<circle cx="${x}" cy="${y}" r="30" fill="#b9aa8c"/><circle cx="${x}" cy="${y}" r="17" fill="#7d715e"/>`
}

/** Leaves, a chalked game, a dropped cloth. */
function strewn(width: number, height: number, random: () => number): string {
  let body = ''
  for (let i = 0; i < 110; i++)
    body += `<ellipse cx="${random() * width}" cy="${random() * height}" rx="7" ry="3" transform="rotate(${Math.floor(random() * 40)})" fill="${rgb(150 + 60 * random(), 90 + 50 * random(), 40)}"/>`
  for (let i = 0; i < 6; i++)
    body += `<rect x="${360 + 52 * i}" y="${590 - 30 * (i % 2)}" width="48" height="48" fill="none" stroke="#e9e4d4" stroke-width="4" opacity="0.75"/>`
  return `${body}<path d="M250 300 l120 -30 l34 84 l-110 40 Z" fill="#a4483c"/><path d="M262 318 l118 -30 M272 346 l118 -34" stroke="#d9b98a" stroke-width="5"/>`
}
