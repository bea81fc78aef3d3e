/** What may be wrong in a picture, as the palette asks it. A kind only says what a mend starts with. */
import type { Shape } from './areas'

export interface Kind {
  readonly title: string
  /** One line of help for the palette. */
  readonly help: string
  /** Letter that chooses it in the palette. */
  readonly letter: string
  readonly shape: Exclude<Shape, 'matte'>
  readonly fill: string
  /** What of the fill's settings starts otherwise than the fill itself: of a clean plate, what fills places that no frame shows. */
  readonly params?: Readonly<Record<string, number | string>>
  readonly finish: { readonly featherOutPx?: number; readonly featherInPx?: number; readonly growPx?: number }
  /** Width of a new path, px. */
  readonly widthPx: number
  /** How its areas go between keys, where not smoothly: marks are laid over a picture by machines, straight from place to place. */
  readonly travel?: 'linear'
  /** It goes about by itself: between the frames on which it was outlined it is found by what sets it apart from the background. */
  readonly roams?: boolean
  /** There is never only one: drawing goes on, and all that is drawn joins one mend. */
  readonly isSeries?: boolean
  /** Its areas lie on something that turns and bends: when all are drawn, each goes with its own place there. */
  readonly isOnSurface?: boolean
  /** Faces are looked for in it as soon as it is drawn: what must stay sharp of them is held out. */
  readonly hasFaces?: boolean
  /** The path looks for its line as soon as it is drawn. */
  readonly clings: boolean
}

export const KINDS = {
  wire: {
    title: 'Wire',
    help: 'Thread, string, cable, scratch: a thin line. Click along it; it finds the line by itself.',
    letter: 'w',
    shape: 'path',
    fill: 'clean-plate',
    params: { unseen: 'across' },
    finish: {},
    widthPx: 10, // common practice: a thin line at HD
    clings: true,
  },
  rig: {
    title: 'Rig',
    help: 'Rod, stand, prop support: a thick bar. Click along its middle.',
    letter: 'r',
    shape: 'path',
    fill: 'clean-plate',
    params: { unseen: 'either' },
    finish: { featherOutPx: 2.5, growPx: 1 },
    widthPx: 32, // common practice: 30 to 45 px for a near one
    clings: true,
  },
  dust: {
    title: 'Dust',
    help: 'Motes and dirt, still in the frame. Click each one, as many as there are.',
    letter: 'u',
    shape: 'ellipse',
    fill: 'lift',
    params: { unseen: 'membrane' },
    finish: { featherOutPx: 4, growPx: 0 },
    widthPx: 10,
    isSeries: true,
    clings: false,
  },
  pixel: {
    title: 'Pixel',
    help: 'Bad pixels of the sensor, still in the frame. Click each one, as many as there are.',
    letter: 'x',
    shape: 'box',
    fill: 'clean-plate',
    // A pixel is bare as soon as the picture has gone 3 px: few frames tell, and there are many pixels.
    params: { unseen: 'near', before: 12, after: 12, every: 6 },
    finish: { featherOutPx: 0, growPx: 0 },
    widthPx: 10,
    isSeries: true,
    clings: false,
  },
  mark: {
    title: 'Mark',
    help: 'Logo, caption, burn-in: a box. As the picture moves under it, other frames show what is behind.',
    letter: 'm',
    shape: 'box',
    fill: 'clean-plate',
    params: { unseen: 'near' },
    finish: { featherOutPx: 2, growPx: 0 },
    widthPx: 10,
    travel: 'linear',
    clings: false,
  },
  shadow: {
    title: 'Shadow',
    help: 'A shadow that must go while its ground stays: an outline round it, soft edge and all. Its depth is found.',
    letter: 's',
    shape: 'outline',
    fill: 'lift-shadow',
    finish: { featherOutPx: 4, growPx: 0 },
    widthPx: 10,
    roams: true,
    clings: false,
  },
  object: {
    title: 'Object',
    help: 'A thing or a person that must go: an outline. Other frames show what is behind.',
    letter: 'b',
    shape: 'outline',
    fill: 'clean-plate',
    params: { unseen: 'texture', tidyPx: 36 },
    finish: { featherOutPx: 3, growPx: 1 },
    widthPx: 10,
    roams: true,
    clings: false,
  },
  blemish: {
    title: 'Blemish',
    help: 'A spot on skin, dark or light: click its middle, as many as there are. Pores stay.',
    letter: 'e',
    shape: 'ellipse',
    fill: 'heal',
    params: { structure: 'own', touch: 'found' },
    finish: { featherOutPx: 2, growPx: 1 },
    widthPx: 10,
    isSeries: true,
    isOnSurface: true,
    clings: false,
  },
  skin: {
    title: 'Skin',
    help: 'Skin that is to look more even: an outline round the face. Only what has its tone is touched.',
    letter: 'k',
    shape: 'outline',
    fill: 'even-skin',
    hasFaces: true,
    finish: { featherOutPx: 8, growPx: 0 },
    widthPx: 10,
    clings: false,
  },
  brush: {
    title: 'Brush',
    help: 'Painted by hand: what is behind, a clone, the plate again, light or colour. Drag over it, stroke by stroke.',
    letter: 'a',
    shape: 'path',
    fill: 'clean-plate',
    params: { unseen: 'near' },
    finish: { featherOutPx: 0, growPx: 0 },
    widthPx: 40,
    clings: false,
  },
  patch: {
    title: 'Patch',
    help: 'A plain cover: an outline, healed from a place beside it that is found by itself.',
    letter: 'p',
    shape: 'outline',
    fill: 'heal',
    finish: { featherOutPx: 4, growPx: 1 },
    widthPx: 10,
    clings: false,
  },
} as const satisfies Readonly<Record<string, Kind>>

/** Whether things of a kind go about by themselves. */
export const roams = (kind: keyof typeof KINDS): boolean => (KINDS[kind] as Kind).roams ?? false

/** Whether drawing one of a kind goes on with the next. */
export const isSeries = (kind: keyof typeof KINDS): boolean => (KINDS[kind] as Kind).isSeries ?? false

/** Whether the areas of one of a kind go with places of a surface. */
export const isOfSurface = (kind: keyof typeof KINDS): boolean => (KINDS[kind] as Kind).isOnSurface ?? false

/** Whether faces are looked for in one of a kind. */
export const hasFaces = (kind: keyof typeof KINDS): boolean => (KINDS[kind] as Kind).hasFaces ?? false
