import type { SVGProps } from 'react'
import type { Figure } from '../api/types'
import { onScale, palette } from '../theme/palette'

interface PatchFaceProps extends Omit<SVGProps<SVGPathElement>, 'width' | 'height'> {
  figure: Figure
  width: number
  height: number
  /** Seen from the back: turned like a page. */
  mirrored?: boolean
}

/** The face of a patch as the beam goes round it, in a box whose upper left is at 0, 0; its holes are rings, so that
 * what stands on the patch stays readable. */
export function PatchFace({ figure, width, height, mirrored = false, ...paint }: PatchFaceProps) {
  // The paths are in millimetres from the lower left, y up.
  const turned = mirrored
    ? `translate(${width} ${height}) scale(-1 -1)`
    : `translate(0 ${height}) scale(1 -1)`
  return (
    <g transform={turned}>
      <path d={figure.face} {...paint} />
      {figure.holes && (
        <path
          d={figure.holes}
          fill="none"
          stroke={onScale.pale}
          strokeWidth={Math.min(width, height) * 0.02}
          opacity={0.4}
        />
      )}
      {figure.lines && (
        <path
          d={figure.lines}
          fill="none"
          stroke={palette.ember}
          strokeWidth={Math.min(width, height) * 0.03}
        />
      )}
    </g>
  )
}
