/**
 * Documents and records of earlier versions, brought to the present form. Pure and total: what is not of an
 * earlier version is returned as it is, and the schema says what is wrong with it.
 */

type Plain = Readonly<Record<string, unknown>>
const isPlain = (value: unknown): value is Plain =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** A mend of any version in the present form. */
export const upgradeMend = (value: unknown): unknown => withInterpolation(withSource(withAreas(value)))

/** Version 1 had one path for each mend, and one feather. */
function withAreas(value: unknown): unknown {
  if (!isPlain(value) || !('area' in value) || 'areas' in value) return value
  const { area, finish, ...rest } = value
  const { featherPx, ...kept } = isPlain(finish) ? finish : {}
  return {
    ...rest,
    areas: [{ ...(isPlain(area) ? area : {}), id: 'a1', role: 'cover', follow: null }],
    finish: { ...kept, featherOutPx: featherPx, featherInPx: 0 },
  }
}

/** Version 2 copied from nowhere, agreed no colours, and came and went at once. */
function withSource(value: unknown): unknown {
  if (!isPlain(value) || !('areas' in value) || 'source' in value) return value
  const { finish, span } = value
  return {
    ...value,
    source: null,
    finish: isPlain(finish)
      ? { agree: 1, exposureStops: 0, saturation: 1, grainFrom: 'made', ...finish }
      : finish,
    span: isPlain(span) ? { rampInFrames: 0, rampOutFrames: 0, ...span } : span,
  }
}

/** Version 3 said `travel` for the interpolation between keys, and stored records `order` for the place in the stack. */
function withInterpolation(value: unknown): unknown {
  if (!isPlain(value)) return value
  const { areas, source } = value
  const isOld = 'order' in value || hasTravel(source) || (Array.isArray(areas) && areas.some(hasTravel))
  if (!isOld) return value
  const { order, ...rest } = value
  return {
    ...rest,
    ...(order === undefined ? {} : { stackIndex: order }),
    ...(Array.isArray(areas) ? { areas: areas.map(withTravelRenamed) } : {}),
    ...(source === undefined ? {} : { source: withTravelRenamed(source) }),
  }
}

const hasTravel = (keyed: unknown): keyed is Plain => isPlain(keyed) && 'travel' in keyed

function withTravelRenamed(keyed: unknown): unknown {
  if (!hasTravel(keyed)) return keyed
  const { travel, ...rest } = keyed
  return { ...rest, interpolation: travel }
}

/** Edits of the history carry mends. */
export function upgradeEdit(value: unknown): unknown {
  if (!isPlain(value) || !Array.isArray(value['changes'])) return value
  const changes = value['changes'].map((change: unknown) =>
    isPlain(change)
      ? { ...change, before: upgradeMend(change['before']), after: upgradeMend(change['after']) }
      : change,
  )
  return { ...value, changes, tracks: value['tracks'] ?? [] }
}

export function upgradeDocument(value: unknown): unknown {
  if (!isPlain(value) || ![1, 2, 3].includes(value['version'] as number) || !Array.isArray(value['mends']))
    return value
  return { ...value, version: 4, mends: value['mends'].map(upgradeMend), tracks: value['tracks'] ?? [] }
}
