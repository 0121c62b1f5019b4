import { memo } from 'react'
import type { Thumbnail } from '../api/types'
import { palette } from '../theme/palette'
import { doseColour, doseRange, outcomeColour } from './scales'

interface MiniPlateProps {
  picture: Thumbnail
  label: string
  /** Ring around one patch. */
  chosen?: string | null
}

/** A plate as a small picture: what came out where it was read, the dose where not. */
export const MiniPlate = memo(function MiniPlate({ picture, label, chosen }: MiniPlateProps) {
  const { width_mm: width, height_mm: height, patches, most } = picture
  const range = doseRange(patches.map((patch) => patch.dose))
  const read = patches.some((patch) => patch.outcome !== null)
  const left = Math.min(...patches.map((patch) => patch.x_mm))
  const bottom = Math.min(...patches.map((patch) => patch.y_mm))
  const right = Math.max(...patches.map((patch) => patch.x_mm + patch.width_mm))
  const top = Math.max(...patches.map((patch) => patch.y_mm + patch.height_mm))
  const pad = Math.max(right - left, top - bottom) * 0.06
  const ring = patches.find((patch) => patch.id === chosen)
  const unit = Math.max(width, height) * 0.012
  return (
    <svg
      viewBox={`${left - pad} ${height - top - pad} ${right - left + 2 * pad} ${top - bottom + 2 * pad}`}
      width="100%"
      height="100%"
      role={label ? 'img' : undefined}
      aria-label={label || undefined}
      aria-hidden={label ? undefined : true}
      style={{ display: 'block', background: palette.plate, borderRadius: 8 }}
    >
      {patches.map((patch) => (
        <rect
          key={patch.id}
          x={patch.x_mm}
          y={height - patch.y_mm - patch.height_mm}
          width={patch.width_mm}
          height={patch.height_mm}
          rx={0.6}
          fill={
            !patch.burn || (read && patch.outcome === null)
              ? 'none'
              : patch.outcome !== null
                ? outcomeColour(patch.outcome, most)
                : doseColour(patch.dose, range)
          }
          stroke={!patch.burn || (read && patch.outcome === null) ? palette.lineStrong : 'none'}
          strokeWidth={unit * 0.5}
        />
      ))}
      {ring && (
        <rect
          x={ring.x_mm - unit}
          y={height - ring.y_mm - ring.height_mm - unit}
          width={ring.width_mm + 2 * unit}
          height={ring.height_mm + 2 * unit}
          rx={unit}
          fill="none"
          stroke={palette.ember}
          strokeWidth={unit * 1.6}
        />
      )}
    </svg>
  )
})
