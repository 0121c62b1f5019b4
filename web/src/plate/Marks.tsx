import { memo } from 'react'
import type { Plate } from '../api/types'
import { palette } from '../theme/palette'

const SOLID = { fill: palette.ink2 }
const LINE = { fill: 'none', stroke: palette.ink2, strokeWidth: 0.22 }

/** Corner marks, the code and the hole to hang the plate by. The back shows the hole alone. */
export const Marks = memo(function Marks({ plate, mirrored }: { plate: Plate; mirrored: boolean }) {
  const { width_mm: width, height_mm: height } = plate.plate
  const { marks, hang_hole: hole } = plate.drawing
  // The paths are in millimetres from the plate's lower left, y up.
  const turned = mirrored
    ? `translate(${width} ${height}) scale(-1 -1)`
    : `translate(0 ${height}) scale(1 -1)`
  return (
    <g pointerEvents="none" transform={turned}>
      {!mirrored &&
        marks.map(({ kind, path }) => (
          <path key={path} d={path} data-mark={kind} {...(kind === 'qr' ? SOLID : LINE)} />
        ))}
      {hole && <path d={hole} fill={palette.paper} stroke={palette.control} strokeWidth={0.3} />}
    </g>
  )
})
