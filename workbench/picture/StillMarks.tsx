/** The corners of a picture that a mend shows: dragged to where it should lie on this frame. */
import { useMemo } from 'react'
import { findFill } from '../../core/fill/registry'
import { apply, IDENTITY, invert } from '../../core/geometry/transform'
import { setFillParam } from '../../core/document/commands'
import { planFrame } from '../../core/plan/planFrame'
import type { MendRecord } from '../../core/document/mend'
import { useBench, useBenchParts } from '../BenchContext'
import { plateCorners } from '../fields/CornersField'
import { Handle } from './handles/Handle'
import { polygonPath } from './pathOutline'
import { Hollow } from './SourceMarks'

const NAMES = ['upper left', 'upper right', 'lower right', 'lower left'] as const

export function StillMarks({ mend }: { mend: MendRecord }) {
  const { store, view, scene } = useBenchParts()
  const frame = useBench((bench) => bench.frame)
  const tracks = useBench((bench) => bench.tracks)
  const plate = useBench((bench) => bench.plate)
  const still = useMemo(
    () => planFrame({ mends: [mend], tracks, plate, scene: scene.scene }, frame).placements[0]?.still ?? null,
    [frame, mend, plate, scene.scene, tracks],
  )
  const params = findFill(mend.fill.methodId)?.params.parse(mend.fill.params) ?? {}
  if (params['placed'] !== 'corners') return null
  const own = params['corners'] as number[]
  const corners = own.length === 8 ? own : plateCorners(plate)
  const toIt = still?.groundToIt ?? IDENTITY
  const back = invert(toIt)
  if (!back) return null
  const here = NAMES.map((_, i) => apply(back, corners[2 * i]!, corners[2 * i + 1]!))
  return (
    <g>
      <g fill="none" className="pointer-events-none">
        <Hollow
          d={polygonPath(
            here.flatMap(({ x, y }) => [x, y]),
            view,
          )}
        />
      </g>
      {here.map(({ x, y }, i) => (
        <Handle
          key={NAMES[i]}
          x={x}
          y={y}
          label={`Picture of ${mend.name}, ${NAMES[i]}, ${x.toFixed(1)}, ${y.toFixed(1)} px`}
          caption={`${x.toFixed(1)}, ${y.toFixed(1)} px`}
          isKeyed={false}
          isSmall
          onMove={(toX, toY) => {
            const state = store.getState()
            const there = apply(toIt, toX, toY)
            const next = corners.map((old, k) => (k === 2 * i ? there.x : k === 2 * i + 1 ? there.y : old))
            state.preview(setFillParam(state.records.get(mend.id)!, 'corners', next, 'Corners'))
          }}
          onMagnify={() => undefined}
        />
      ))}
    </g>
  )
}
