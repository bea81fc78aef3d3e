import { z } from 'zod'
import { srgb } from '../../colour/transfer'
import type { Raster } from '../../image/raster'
import type { Size } from '../../image/rect'
import { shrink } from '../../image/shrink'
import { pow } from '../../kernels/exact'
import { labelled } from '../../parameter'
import { evenPixels, splitSkin, type EvenParams, type SkinBands } from '../../skin/bands'
import { creaseLifts } from '../../skin/creases'
import { learnTone, type Tone } from '../../skin/tone'
import { learntToneAt, setTones, tonesOn, type Tones } from '../../skin/tonesSet'
import { grownMatte, toneParams, toneMatte } from '../../skin/toneMatte'
import { defineFill, NEVER, ownValues, type FillInput, type Prepared } from '../method'

const percent = (start: number, title: string, help: string, max = 100) =>
  labelled(z.number().min(0).max(max).default(start), { title, help, unit: '%', step: 1 })
const trim = (title: string, help: string) =>
  labelled(z.number().min(-100).max(100).default(0), { title, help, unit: '%', step: 1 })
const width = (title: string, help: string) =>
  labelled(z.number().min(0.2).max(4).default(1), {
    title,
    help,
    unit: '×',
    step: 0.05,
    shownWhen: { parameter: 'where', is: 'tone' },
  })

const params = z.strictObject({
  evenness: percent(
    30,
    'Evenness',
    'How much of the blotches goes. 25 to 30 % looks like skin, 100 % like a mask.',
  ),
  radiusPx: labelled(z.number().min(2).max(160).default(24), {
    title: 'Radius',
    help: 'Blotches are at most so wide: about a twelfth of the face’s height.',
    unit: 'px',
    step: 1,
  }),
  downBy: labelled(z.number().min(0.25).max(4).default(1), {
    title: 'Radius down',
    help: 'How many times as far down as across.',
    unit: '×',
    step: 0.05,
  }),
  passes: labelled(z.int().min(1).max(4).default(1), {
    title: 'Passes',
    help: 'How often blotches are told anew from what is left, and taken: more takes what lies under others.',
    unit: '',
    step: 1,
  }),
  pores: percent(100, 'Pores', 'The finest structure: 100 % leaves it as it is, less calms it.', 150),
  poresPx: labelled(z.number().min(1).max(16).default(3), {
    title: 'Pore size',
    help: 'What is finer than this is pores, and stays; what is wider is a blotch.',
    unit: 'px',
    step: 0.5,
  }),
  form: percent(
    50,
    'Form',
    'How much light and shade the head keeps: more takes smaller steps of brightness for form.',
  ),
  lines: percent(
    0,
    'Lines',
    'Softens creases: how far they come up to the skin beside them. Filled they never are.',
  ),
  shine: percent(0, 'Shine', 'How far highlights are brought down to the skin’s own tone.'),
  warmth: trim('Warmth', 'More is warmer, less is cooler.'),
  redness: trim('Redness', 'Less takes red out of the skin.'),
  brightnessStops: labelled(z.number().min(-1).max(1).default(0), {
    title: 'Brightness',
    help: 'Of the skin alone.',
    unit: 'stops',
    step: 0.01,
  }),
  where: labelled(z.enum(['tone', 'area']).default('tone'), {
    title: 'Where',
    help: 'Only where the area has the tone of skin, learnt from it; or all over the area.',
    unit: '',
    choices: { tone: 'Skin tone', area: 'All of it' },
  }),
  tones: labelled(setTones, {
    title: 'Tones',
    help: 'Without any the tone is found on each frame by itself. Learnt on a frame, it holds until the next one that was learnt; others are added or taken away by clicking in the picture.',
    unit: '',
    areTones: true,
    shownWhen: { parameter: 'where', is: 'tone' },
  }),
  covers: labelled(z.enum(['skin', 'rest']).default('skin'), {
    title: 'Evens',
    help: 'What has the tone of skin, or all but that.',
    unit: '',
    choices: { skin: 'The skin', rest: 'All but it' },
    shownWhen: { parameter: 'where', is: 'tone' },
  }),
  hueWidth: width('Hue width', 'How far hues may be from the skin’s own. More takes in more.'),
  colourWidth: width('Colour width', 'How much more or less colourful the skin may be.'),
  brightnessWidth: width('Light width', 'How much darker or brighter the skin may be.'),
  softness: width('Softness', 'How gradually the matte goes from skin to none.'),
  matteGrowPx: labelled(z.number().min(-24).max(24).default(0), {
    title: 'Matte grow',
    help: 'Grows the matte; below 0 it is pulled in from all that is no skin.',
    unit: 'px',
    step: 0.5,
    shownWhen: { parameter: 'where', is: 'tone' },
  }),
})
type Settings = z.output<typeof params>

export const skinSettings = (stored: Record<string, unknown>): Settings => params.parse(stored)

/** A face is so many times as high as its blotches are wide at most, and as its pores are. Common practice, no source. */
const [RADII_IN_FACE, PORES_IN_FACE] = [12, 110]
/** A pixel by itself has grain and pores: it may be so much further from the tone than what is averaged. */
const OWN_WIDER = 1.25
/** Edges are followed over this distance, px, by the matte. */
const FOLLOWS_PX = 3
/** Bands and matte are worked out at this part of the size at most: finer than half a pore is not needed. */
const MAX_SHRINK = 3
/** Steps of brightness that are form, with none of it kept and with all. */
const FORM_STEPS = { none: 0.24, all: 0.03 }
/** A share of the energy that is seen of blotches, as amplitude of their band: .5 if the band held all of it, but some lies in form and pores. */
const TO_AMPLITUDE = 0.7
/** Brighter than the tone by so many deviations is shine; what is left of it above that, at 100 %. */
const SHINE_FROM = 1
/** A trim of 100 % changes a channel by so much. */
const MAX_TRIM = 0.08

/**
 * Even skin: takes blotches out of the tone of an area and keeps form and pores.
 *
 * Symbols: P = F + B + D, form, blotches and pores; the result is F' + (1 − evenness)^.7 B + pores D, where F' has its shine brought down and its trims; it
 * is laid over the plate by the matte of the tone. Everything is worked out from the frame itself at each place, so that nothing swims.
 */
export const evenSkin = defineFill<typeof params, Tone>({
  id: 'even-skin',
  version: 3,
  title: 'Even skin',
  summary:
    'Takes blotches out and keeps pores and form, wherever the area has the tone of skin. Spots that must go altogether are blemishes.',
  source:
    'Bands between edge-preserving means: K. He, J. Sun, X. Tang, "Guided image filtering", ECCV 2010; Z. Farbman et al., "Edge-preserving decompositions", SIGGRAPH 2008.',
  params,
  defaultsForSize: ({ height }) => ({
    radiusPx: Math.min(160, Math.max(6, Math.round(height / RADII_IN_FACE))),
    poresPx: Math.min(16, Math.max(1, Math.round((2 * height) / PORES_IN_FACE) / 2)),
  }),
  needsPath: false,
  keepsThing: true,
  hidesNothing: true,
  corrects: true,
  reach: ({ radiusPx, downBy, passes, poresPx }) => ({
    marginPx: Math.ceil((1 + passes) * Math.max(1, downBy) * radiusPx + 1.5 * poresPx) + 8,
  }),

  steady: {
    wants: (settings) => ({
      besideFrames: 0,
      anchor: needsTone(settings) && !isLearnt(settings),
      clear: false,
    }),
    prepare: (input) => toneOf(input),
  },

  run(input, settings, context, prepared = []) {
    const stopped = { ok: false, reason: 'stopped', detail: 'While skin was evened.' } as const
    if (context.shouldStop()) return stopped
    const { picture, field } = input
    const values = ownValues(input)
    const grainKept = new Float32Array(field.count).fill(1)
    if (picture.channels < 3)
      return { ok: false, reason: 'nothing-known', detail: 'Skin has colour, and this picture has none.' }
    // What is wider than pores is as well told at a part of the size.
    const by = Math.max(1, Math.min(MAX_SHRINK, Math.floor(settings.poresPx / 1.5)))
    const small = shrink(picture, by)
    // Learnt once, and found again on this frame: a lamp that flares takes the tone along.
    const own = needsTone(settings) ? ownToneOf(input, settings, anchorTone(prepared)) : null
    const tones = own && tonesOn(settings.tones, own)
    if (settings.where === 'tone' && !tones)
      return { ok: false, reason: 'nothing-known', detail: 'The area shows too little to learn a tone from.' }
    const matte =
      settings.where === 'tone'
        ? matteOf(small, tones!, settings, by)
        : new Float32Array(small.width * small.height).fill(1)
    if (input.taboo) holdOut(matte, input.taboo, { width: picture.width, height: picture.height }, by)
    if (context.shouldStop()) return stopped
    const { none, all } = FORM_STEPS
    const bands = splitSkin(small, matte, {
      radiusPx: settings.radiusPx / by,
      downBy: settings.downBy,
      poresPx: settings.poresPx / by,
      formStep: none * (1 - settings.form / 100) + all * (settings.form / 100),
    })
    if (context.shouldStop()) return stopped
    const needed = evenPixels(
      values,
      picture.channels,
      field.pixels,
      picture.width,
      bands,
      by,
      evenParamsOf(settings, tones, creasesOf(bands, settings, by)),
    )
    return { ok: true, values, grainKept, needed }
  },
})

const isLearnt = ({ tones }: Settings): boolean => tones.some(({ use }) => use === 'learnt')

/** What was learnt, else what is found on the frame. */
const ownToneOf = (input: FillInput, settings: Settings, start: Tone | null): Tone | null =>
  learntToneAt(settings.tones, input.frame) ?? toneOf(input, start)

const needsTone = ({ where, shine }: Settings): boolean => where === 'tone' || shine > 0

/** The tone of the area, or of what it has near a tone that is known. */
const toneOf = ({ picture, field, wanted, taboo }: FillInput, start: Tone | null = null): Tone | null => {
  const asked = new Int32Array(field.count)
  let count = 0
  for (let i = 0; i < field.count; i++) {
    const pixel = field.pixels[i]!
    if (wanted[i]! > 0 && (taboo === null || taboo[pixel] !== NEVER)) asked[count++] = pixel
  }
  return learnTone(picture, asked.subarray(0, count), start)
}

const anchorTone = (prepared: readonly Prepared<Tone>[]): Tone | null =>
  prepared.find(({ purpose }) => purpose === 'anchor')?.value ?? null

/** @param wider  Factor for all of them. */
export const toneWidths = ({ hueWidth, colourWidth, brightnessWidth, softness }: Settings, wider = 1) => ({
  hue: wider * hueWidth,
  colour: wider * colourWidth,
  brightness: wider * brightnessWidth,
  softness,
})

/** Where what is asked for is, of a picture that is smaller by `by`. */
function matteOf(small: Raster, tones: Tones, settings: Settings, by: number): Float32Array {
  const followsPx = Math.max(1, Math.round(FOLLOWS_PX / by))
  const skin = toneMatte(small, tones, toneWidths(settings), followsPx)
  const grown = grownMatte(skin, small.width, small.height, settings.matteGrowPx / by)
  return settings.covers === 'rest' ? grown.map((share) => 1 - share) : grown
}

/** What is held out, or another mend's to cover, is no skin. */
function holdOut(matte: Float32Array, taboo: Uint8Array, size: Size, by: number): void {
  const isHeld = Float32Array.from(taboo, (level) => (level === NEVER ? 1 : 0))
  const held = shrink({ ...size, channels: 1, data: isHeld }, by).data
  for (let at = 0; at < matte.length; at++) if (held[at]! > 0) matte[at] = matte[at]! * (1 - held[at]!)
}

/** Steps of the curve that makes skin brighter. */
const CURVE_STEPS = 1024

/** Creases are at most so many pores wide. */
const CREASE_IN_PORES = 3

const creasesOf = ({ middle }: SkinBands, { lines, poresPx }: Settings, by: number): Float32Array | null =>
  lines > 0 ? creaseLifts(middle, (CREASE_IN_PORES * poresPx) / by, lines / 100) : null

function evenParamsOf(settings: Settings, tones: Tones | null, lifts: Float32Array | null): EvenParams {
  const { evenness, pores, shine, warmth, redness, brightnessStops, where } = settings
  const gain = pow(2, brightnessStops)
  const brighter = (_: unknown, i: number) => srgb.encode(gain * srgb.decode(i / CURVE_STEPS))
  return {
    passes: settings.passes,
    blotchShare: pow(1 - evenness / 100, TO_AMPLITUDE),
    poreShare: pores / 100,
    shineShare: tones ? shine / 100 : 0,
    shineFrom: tones ? tones.own.brightness + SHINE_FROM * tones.own.deviations.brightness : 0,
    trims: [trimOf(0, warmth, redness), trimOf(1, warmth, redness), trimOf(2, warmth, redness)],
    lifts,
    tones:
      where === 'tone' && tones && settings.covers === 'skin' && settings.matteGrowPx <= 0
        ? {
            params: toneParams(tones, toneWidths(settings, OWN_WIDER)),
            added: tones.added.length,
            taken: tones.taken.length,
          }
        : null,
    curve: gain === 1 ? null : Float32Array.from({ length: CURVE_STEPS + 1 }, brighter),
  }
}

/** Warmer: red up, blue down. Redder: red up, green and blue down; brightness stays about the same. */
const TRIMS = [
  [1, 1],
  [0, -0.4],
  [-1, -0.4],
] as const
const trimOf = (channel: number, warmth: number, redness: number): number =>
  (MAX_TRIM * (TRIMS[channel]![0] * warmth + TRIMS[channel]![1] * redness)) / 100
