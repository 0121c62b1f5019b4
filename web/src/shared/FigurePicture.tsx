import type { KeptFigure } from '../api/types'
import { palette } from '../theme/palette'

interface FigurePictureProps {
  figure: Pick<KeptFigure, 'picture' | 'width_mm' | 'height_mm'>
  /** How large it may be on the screen, px. */
  size: number
}

/** A small picture of a figure: its inside, and its lines that do not close. Words stand beside it. */
export function FigurePicture({ figure: { picture, width_mm, height_mm }, size }: FigurePictureProps) {
  const scale = size / Math.max(width_mm, height_mm)
  return (
    <svg
      aria-hidden="true"
      width={Math.max(1, width_mm * scale)}
      height={Math.max(1, height_mm * scale)}
      viewBox={`0 0 ${width_mm} ${height_mm}`}
      overflow="visible"
      style={{ flexShrink: 0 }}
    >
      {picture.outlines && <path d={picture.outlines} fillRule="evenodd" fill={palette.ink2} />}
      {picture.lines && (
        <path d={picture.lines} fill="none" stroke={palette.ember} strokeWidth={1.5 / scale} />
      )}
    </svg>
  )
}
