import { memo } from 'react'
import type { Plate } from '../api/types'
import { palette } from '../theme/palette'
import { placed } from './geometry'

/** Corner marks, the code and the hole to hang the plate by. The back shows the hole alone. */
export const Marks = memo(function Marks({ plate, mirrored }: { plate: Plate; mirrored: boolean }) {
  const { width_mm: width, height_mm: height } = plate.plate
  const line = { fill: 'none', stroke: palette.ink2, strokeWidth: 0.22 }
  const hole = plate.hang_hole
  return (
    <g pointerEvents="none">
      {!mirrored &&
        (plate.marks ?? []).map(({ kind, x_mm, y_mm, size_mm }) => {
          const at = { cx: x_mm, cy: height - y_mm }
          if (kind === 'qr') return <Code key="qr" x={at.cx} y={at.cy} size={size_mm} />
          return (
            <g key={`${x_mm} ${y_mm}`} {...line}>
              <circle {...at} r={size_mm / 2} />
              {kind === 'distinct' && <circle {...at} r={size_mm / 4} />}
            </g>
          )
        })}
      {hole && (
        <circle
          cx={placed(hole.x_mm, 0, width, mirrored)}
          cy={height - hole.y_mm}
          r={hole.size_mm / 2}
          fill={palette.paper}
          stroke={palette.control}
          strokeWidth={0.3}
        />
      )}
    </g>
  )
})

/** Where the code stands: its bare border, its three eyes. */
function Code({ x, y, size }: { x: number; y: number; size: number }) {
  const module = size / 29
  const left = x - size / 2
  const top = y - size / 2
  const eye = (column: number, row: number) => {
    const at = (inset: number, side: number) =>
      `M${left + (column + inset) * module},${top + (row + inset) * module}h${side * module}v${side * module}h${-side * module}z`
    return at(0, 7) + at(1, 5) + at(2, 3)
  }
  return (
    <g>
      <rect
        x={left}
        y={top}
        width={size}
        height={size}
        fill="none"
        stroke={palette.line}
        strokeWidth={0.15}
      />
      <rect
        x={left + 4 * module}
        y={top + 4 * module}
        width={21 * module}
        height={21 * module}
        fill={palette.ink2}
        opacity={0.18}
      />
      <path d={eye(4, 4) + eye(18, 4) + eye(4, 18)} fill={palette.ink2} fillRule="evenodd" />
    </g>
  )
}
