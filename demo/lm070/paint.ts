/** The stagehand in pieces: body, one leg, one arm; each turns about its upper end. */
import { svg } from '../svg'

/** Size of each piece's layer and the place in it about which it turns. */
export const BODY = { width: 140, height: 260, pivot: { x: 70, y: 226 } } as const
export const LEG = { width: 80, height: 190, pivot: { x: 40, y: 20 } } as const
export const ARM = { width: 60, height: 160, pivot: { x: 30, y: 20 } } as const

export const paintBody = (): string =>
  svg(
    BODY.width,
    BODY.height,
    `<path d="M42 96 Q70 74 98 96 L104 236 Q70 250 36 236 Z" fill="#2e3a46"/><path d="M70 84 V240" stroke="#1b232b" stroke-width="3"/><path d="M46 150 h48" stroke="#c78f3e" stroke-width="6"/>
    <circle cx="70" cy="60" r="21" fill="#b98a6c"/><path d="M46 52 q24 -34 48 0 l8 6 H44 Z" fill="#7a2f2a"/><circle cx="80" cy="62" r="2.4" fill="#2a1c16"/>
    <rect x="56" y="186" width="28" height="34" fill="#3d4b59" stroke="#1b232b" stroke-width="2"/>`,
  )

export const paintLeg = (shade: string): string =>
  svg(
    LEG.width,
    LEG.height,
    `<path d="M26 14 H56 L52 150 H32 Z" fill="${shade}"/><path d="M30 146 h22 q18 8 18 22 H30 Z" fill="#15100e"/>`,
  )

export const paintArm = (shade: string): string =>
  svg(
    ARM.width,
    ARM.height,
    `<path d="M20 14 q10 -8 20 0 L38 120 H22 Z" fill="${shade}"/><circle cx="30" cy="128" r="10" fill="#b98a6c"/>`,
  )

/** The soft dark patch under its feet. */
export const SHADOW = { width: 240, height: 60 } as const
export const paintShadow = (): string =>
  svg(
    SHADOW.width,
    SHADOW.height,
    `<defs><filter id="soft" x="-40%" y="-120%" width="180%" height="340%"><feGaussianBlur stdDeviation="5"/></filter></defs><ellipse cx="120" cy="30" rx="70" ry="9" fill="#000" opacity="0.55" filter="url(#soft)"/>`,
  )

/** One of the two lamps, hung from its arch. */
export const LANTERN = { width: 60, height: 110, light: { x: 30, y: 76 } } as const
export const paintLantern = (): string =>
  svg(
    LANTERN.width,
    LANTERN.height,
    `<path d="M30 4 V52" stroke="#1d1713" stroke-width="3"/><path d="M16 58 h28 l5 36 h-38 Z" fill="#ffe0a0"/><path d="M16 58 h28 l5 36 h-38 Z M30 58 v36 M22 52 h16 l6 6 h-28 Z" fill="none" stroke="#1d1713" stroke-width="3"/>`,
  )
