/** From finds to mends: bad pixels and motes join one mend each, with an area for every place; marks and lines get one of their own. */
import { defaultsOf, findFill } from '../fill/registry'
import { together, addMend } from './commands'
import { specksEdits } from './speckMends'
import { drawnArea } from './areaCommands'
import type { Area, Geometry, KeyedArea } from './areas'
import type { MendEdit, MendRecords } from './edits'
import type { MendKind, MendRecord } from './mend'
import type { Find, FindKind } from '../survey/finds'
import type { FrameRange } from '../time'

const KIND_OF: Readonly<Record<FindKind, MendKind>> = {
  pixel: 'pixel',
  mote: 'dust',
  mark: 'mark',
  line: 'wire',
  specks: 'brush',
}
/** Kinds of which one mend holds all places. */
const IS_SHARED: Readonly<Record<FindKind, boolean>> = {
  pixel: true,
  mote: true,
  mark: false,
  line: false,
  specks: false,
}
/** The most places that one mend holds. */
const MAX_AREAS = 2000

/** Finds that are accepted: an area of some mend has the find's id. Undo takes the area, and with it the acceptance. */
export function acceptedIds(records: MendRecords): ReadonlySet<string> {
  const ids = new Set<string>()
  for (const { areas } of records.values()) {
    for (const { id } of areas) {
      ids.add(id)
      const group = SPECK_ID.exec(id)
      if (group) ids.add(group[1]!)
    }
  }
  return ids
}

/** Of one speck of a find: single ones may be deleted, the find stays accepted. */
const SPECK_ID = /^(specks-\d+)-\d+$/

/**
 * One edit that mends all of them; null where all are mended already.
 * @param newId  Makes the id of a mend.
 */
export function acceptFinds(
  records: MendRecords,
  finds: readonly Find[],
  range: FrameRange,
  newId: () => string,
): MendEdit | null {
  const done = acceptedIds(records)
  const open = finds.filter((find) => !done.has(find.id))
  if (open.length === 0) return null
  let now = records
  const edits: MendEdit[] = []
  const make = (edit: MendEdit) => {
    edits.push(edit)
    now = new Map([...now, ...edit.changes.map(({ id, after }) => [id, after!] as const)])
  }
  for (const kind of ['pixel', 'mote', 'mark', 'line', 'specks'] as const) {
    const some = open.filter((find) => find.kind === kind)
    if (kind === 'specks') {
      for (const find of some)
        if (find.kind === 'specks')
          for (const edit of specksEdits(now, find, range, { newId, max: MAX_AREAS })) make(edit)
      continue
    }
    const ones = some.filter((find) => find.kind !== 'specks')
    if (!IS_SHARED[kind]) {
      for (const find of ones)
        make(addMend(now, KIND_OF[kind], newId(), [areaOf(find, range)], find.kind === 'line' ? find : range))
      continue
    }
    const areas = ones.map((find) => areaOf(find, range))
    for (let from = 0; from < areas.length;) {
      const into = [...now.values()].find(
        (mend) => mend.kind === KIND_OF[kind] && mend.areas.length < MAX_AREAS && spans(mend, range),
      )
      const room = MAX_AREAS - (into?.areas.length ?? 0)
      const those = areas.slice(from, from + room)
      from += room
      make(into ? withAreas(into, those) : bySize(addMend(now, KIND_OF[kind], newId(), those, range)))
    }
  }
  return together(edits, `Accept ${open.length === 1 ? 'a find' : `${open.length} finds`}`)
}

/** Radius of motes from which on a membrane is stretched over what cannot be lifted: a median's disc no longer sees enough around them. */
const LARGE_PX = 20
/** More places than this are not gathered one by one, which would take seconds a frame. */
const MAX_GATHERED = 60

/** What fills new dust where it cannot be lifted: a median of what is around, over large motes a membrane. Many pixels are filled from right beside. */
function bySize(edit: MendEdit): MendEdit {
  const { id, after } = edit.changes[0]!
  if (after?.kind === 'dust') {
    const widest = Math.max(
      ...after.areas.map((area) =>
        area.shape === 'ellipse' ? Math.max(area.keys[0]!.radiusXPx, area.keys[0]!.radiusYPx) : 0,
      ),
    )
    const fill = {
      ...after.fill,
      params: { ...after.fill.params, unseen: widest < LARGE_PX ? 'median' : 'membrane' },
    }
    return { ...edit, changes: [{ id, before: null, after: { ...after, fill } }] }
  }
  if (after?.kind === 'pixel' && after.areas.length > MAX_GATHERED) {
    const near = findFill('near')!
    const fill = { methodId: near.id, methodVersion: near.version, params: defaultsOf(near) }
    return { ...edit, changes: [{ id, before: null, after: { ...after, fill } }] }
  }
  return edit
}

/** Whether a mend is on all the time, as what is fixed to the camera must be. */
const spans = ({ span }: MendRecord, { firstFrame, lastFrame }: FrameRange): boolean =>
  span.firstFrame <= firstFrame &&
  span.lastFrame >= lastFrame &&
  span.rampInFrames === 0 &&
  span.rampOutFrames === 0

const withAreas = (mend: MendRecord, areas: readonly Area[]): MendEdit => ({
  label: `Add ${areas.length} ${areas.length === 1 ? 'place' : 'places'} to ${mend.name}`,
  changes: [{ id: mend.id, before: mend, after: { ...mend, areas: [...mend.areas, ...areas] } }],
  tracks: [],
})

type OneArea = Exclude<Find, { kind: 'specks' }>

/** What covers a find: whole pixels for bad pixels, the whole of a mote, some px around a mark. */
function areaOf(find: OneArea, range: FrameRange): Area {
  const area = drawnArea(find.id, geometryOf(find), range.firstFrame)
  if (find.kind === 'line')
    return { ...area, keys: find.keys.map(({ frame, points }) => ({ frame, points })) } as Area
  if (find.kind !== 'mark' || !find.keys) return area
  const [drawn] = area.keys as [KeyedArea['keys'][number]]
  // A mark goes straight from place to place.
  return { ...area, interpolation: 'linear', keys: find.keys.map((key) => ({ ...drawn, ...key })) } as Area
}

const MARK_MARGIN_PX = 3
/** Of a mark that travels, the extent was told on cells of some px, and a faint field around its letters may have been missed. */
const TRAVELLING_MARGIN_PX = 16

function geometryOf(find: OneArea): Geometry {
  switch (find.kind) {
    case 'pixel': {
      const { widthPx, heightPx } = find
      return {
        shape: 'box',
        x: centred(find.x, widthPx),
        y: centred(find.y, heightPx),
        widthPx,
        heightPx,
        turnDeg: 0,
        cornerPx: 0,
      }
    }
    case 'mote':
      return {
        shape: 'ellipse',
        x: find.x,
        y: find.y,
        radiusXPx: find.radiusXPx,
        radiusYPx: find.radiusYPx,
        turnDeg: find.turnDeg,
      }
    case 'mark': {
      const { x, y, widthPx, heightPx, keys } = find
      const marginPx = keys ? TRAVELLING_MARGIN_PX : MARK_MARGIN_PX
      return {
        shape: 'box',
        x,
        y,
        widthPx: widthPx + 2 * marginPx,
        heightPx: heightPx + 2 * marginPx,
        turnDeg: 0,
        cornerPx: 0,
      }
    }
    case 'line':
      return { shape: 'path', points: find.keys[0]!.points.map((point) => ({ ...point })) }
  }
}

/** The middle of a box of whole pixels nearest to a place: half px for odd sizes, whole for even ones. */
const centred = (at: number, size: number): number =>
  Math.round(size) % 2 === 1 ? Math.floor(at) + 0.5 : Math.round(at)
