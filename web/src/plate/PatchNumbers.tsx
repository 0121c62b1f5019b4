import { memo } from 'react'
import type { Plate } from '../api/types'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { palette } from '../theme/palette'
import { placed } from './geometry'
import { SvgText } from './SvgText'
import { addedCount, hasOwnNumbers, variedKeys } from './varied'

/** Below each patch its own numbers, where no edge says them and the plate is not lettered with them. */
export const PatchNumbers = memo(function PatchNumbers({
  plate,
  lettered,
  mirrored,
  active,
}: {
  plate: Plate
  /** The plate is lettered with the numbers of its own patches, though never with those burned beside it. */
  lettered: boolean
  mirrored: boolean
  active: string | null
}) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const numbered =
    hasOwnNumbers(plate.trial) && !lettered
      ? plate.patches
      : plate.patches.slice(plate.patches.length - addedCount(plate.trial))
  if (numbered.length === 0) return null
  const keys = variedKeys(plate.trial)
  const words = numbered.map(({ settings }) =>
    keys
      .map((key) => shown(settings[key] ?? 0, parameter(key), inventory.units, units))
      .map(({ value }) => value)
      .join(' · '),
  )
  const longest = Math.max(...words.map((word) => word.length))
  const { gap_mm, width_mm } = plate.trial.patch
  // The lowest line stands between its patches and the edge of the plate.
  const room = Math.min(gap_mm, ...numbered.map((patch) => patch.y_mm))
  const size = Math.min(room * 0.95, (width_mm + gap_mm) / (0.5 * longest + 0.5))
  const { width_mm: width, height_mm: height } = plate.plate
  return (
    <g aria-hidden="true" pointerEvents="none" data-own-numbers>
      {numbered.map((patch, i) => (
        <SvgText
          key={patch.id}
          x={placed(patch.x_mm + patch.width_mm / 2, 0, width, mirrored)}
          y={height - patch.y_mm + size * 0.88}
          size={size}
          weight={patch.id === active ? 700 : 600}
          colour={patch.id === active ? palette.ember : palette.ink2}
        >
          {words[i]}
        </SvgText>
      ))}
    </g>
  )
})
