/** A running stitch in two tones: light dashes on dark, visible on any picture. A holdout's stitches are dots. */
export function Stitched({
  d,
  isStrong,
  isHoldout = false,
}: {
  d: string
  isStrong: boolean
  isHoldout?: boolean
}) {
  return (
    <g fill="none" strokeWidth={isStrong ? 1.5 : 1} strokeLinecap={isHoldout ? 'round' : 'butt'}>
      <path
        d={d}
        stroke="#000"
        strokeOpacity={isStrong ? 0.85 : 0.5}
        strokeWidth={isHoldout ? 2.5 : undefined}
      />
      <path
        d={d}
        stroke="#ececec"
        strokeOpacity={isStrong ? 1 : 0.7}
        strokeDasharray={isHoldout ? '1 5' : '7 5'}
      />
    </g>
  )
}
