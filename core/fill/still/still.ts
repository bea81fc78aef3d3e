import { z } from 'zod'
import { labelled } from '../../parameter'
import type { GatherFrame } from '../../plate/places'
import {
  finished,
  gatherAround,
  gatherFramesOf,
  GATHER_REACH,
  toEntries,
  lightParam,
  nothingWanted,
  steadyUnseen,
  unseenParam,
  wantedEntries,
} from '../gathered/gatherAround'
import { defineFill, type FillInput, type FillMethod } from '../method'

const MAX_FRAME = 10_000_000
const CORNER_VALUES = 8
const MAX_PX = 100_000

const params = z.strictObject({
  shows: labelled(z.enum(['frame', 'picture']).default('frame'), {
    title: 'Shows',
    unit: '',
    help: 'A frame of this plate, or a picture that is brought in.',
    choices: { frame: 'A frame', picture: 'A picture' },
  }),
  frame: labelled(z.int().min(0).max(MAX_FRAME).default(0), {
    title: 'Frame',
    unit: '',
    help: 'The frame that is shown. Go to one that shows what is behind, and press This frame.',
    shownWhen: { parameter: 'shows', is: 'frame' },
    isFrame: true,
  }),
  still: labelled(z.string().max(300).default(''), {
    title: 'Picture',
    unit: '',
    help: 'The picture that is shown: one that was brought in, or a file beside the mends.',
    shownWhen: { parameter: 'shows', is: 'picture' },
  }),
  placed: labelled(z.enum(['rests', 'rides', 'corners']).default('rides'), {
    title: 'Placed',
    unit: '',
    help: 'At rest, pixel by pixel; laid on the ground and going with it; or by its four corners, going with the ground from there.',
    choices: { rests: 'At rest', rides: 'On the ground', corners: 'By corners' },
  }),
  on: labelled(z.int().min(0).max(MAX_FRAME).default(0), {
    title: 'Lies so on',
    unit: '',
    help: 'The frame on which the picture lies as placed; before and after it goes with the ground.',
    shownWhen: { parameter: 'shows', is: 'picture' },
    isFrame: true,
  }),
  corners: labelled(z.array(z.number().min(-MAX_PX).max(MAX_PX)).max(CORNER_VALUES).default([]), {
    title: 'Corners',
    unit: 'px',
    help: 'Where the corners of what is shown lie: dragged in the picture, or typed.',
    shownWhen: { parameter: 'placed', is: 'corners' },
  }),
  light: lightParam,
  unseen: unseenParam,
})
type StillParams = z.output<typeof params>

/** A frame of the plate that is laid over this one as frames that are gathered from are. */
const isGathered = ({ shows, placed }: StillParams): boolean => shows === 'frame' && placed !== 'corners'

/**
 * Still: one picture of the background for all frames, registered and brought to the light of each.
 */
export const still: FillMethod = defineFill<typeof params, unknown>({
  id: 'still',
  version: 1,
  title: 'Still',
  summary:
    'Shows one frame or one picture behind the thing: at rest, on the ground, or by its corners; in the light of each frame.',
  source: 'Common practice, no source.',
  params,
  needsPath: false,
  reach: () => GATHER_REACH,
  needsStill(all) {
    const { shows, frame, still: name, placed, on, corners } = all
    if (isGathered(all) || (shows === 'picture' && name === '')) return null
    return {
      of: shows === 'frame' ? frame : name,
      corners: placed === 'corners' && corners.length === CORNER_VALUES ? corners : null,
      // A frame of the plate lies so on itself.
      on: placed === 'rests' ? null : shows === 'frame' ? frame : on,
    }
  },
  steady: {
    ...steadyUnseen,
    gathers(all, _frame, { firstFrame, lastFrame }) {
      if (!isGathered(all)) return undefined
      const isHad = all.frame >= firstFrame && all.frame <= lastFrame
      return { frames: isHad ? [all.frame] : [], motion: all.placed === 'rides' ? 'scene' : 'none' }
    },
  },

  run(input, all, context, prepared = []) {
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'Before it began.' }
    const hidden = wantedEntries(input)
    if (hidden.length === 0) return nothingWanted(input)
    const shown = isGathered(all) ? gatherFramesOf(prepared) : ownPicture(input)
    if (shown.length === 0) return { ok: false, reason: 'no-source', detail: missing(all) }
    const registration = { registers: all.placed === 'rides', relights: all.light === 'agreed' }
    const gathered = gatherAround(
      { ...input, layerMap: isGathered(all) ? input.layerMap : null },
      hidden,
      shown,
      registration,
      context,
    )
    if (context.shouldStop()) return { ok: false, reason: 'stopped', detail: 'While registering it.' }
    return finished(input, toEntries(input, hidden, gathered), all.unseen, context)
  },
})

function ownPicture({ still: own, frame }: FillInput): GatherFrame[] {
  return own
    ? [
        {
          frame,
          samples: own.samples,
          rect: own.rect,
          masked: null,
          layersFromHere: [own.stillFromTarget],
          layerMap: null,
        },
      ]
    : []
}

const missing = ({ shows, still: name, frame }: StillParams): string => {
  if (shows === 'frame') return `The plate has no frame ${frame}. Choose one that shows what is behind.`
  return name === ''
    ? 'No picture has been brought in yet. Bring one in, or show a frame.'
    : 'The picture is missing, or lies beside the area.'
}
