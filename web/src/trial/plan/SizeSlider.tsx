import { Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design } from '../../api/types'
import { written } from '../../shared/units'
import { clockUnit, minutes } from '../../shared/words'
import type { Change } from './useDesign'

const SMALLEST_MM = 2
const LARGEST_MM = 30

interface SizeSliderProps {
  patch: Design['patch']
  /** The size in the last good plan: smaller where patches shrink to fit their piece. */
  planned: { width_mm: number; height_mm: number }
  /** What the size costs in the last good plan. */
  seconds: number
  footprint: string
  change: Change
  settle: () => void
}

/** Pulling the size of the patches, with what it costs beside it: time and ground. */
export const SizeSlider = memo(function SizeSlider(props: SizeSliderProps) {
  const { patch, planned, seconds, footprint, change, settle } = props
  const width = Number(patch.width_mm)
  // Of a figure somebody brought it follows from the width.
  const follows = patch.height_mm == null
  const height = follows ? planned.height_mm : Number(patch.height_mm)
  if (!(width > 0 && height > 0)) return null
  const ratio = height / width
  const pull = (next: number) =>
    change(
      (design) => ({
        ...design,
        patch: {
          ...design.patch,
          width_mm: next,
          height_mm: follows ? null : Number((next * ratio).toFixed(2)),
        },
      }),
      'patch.size',
    )
  const shrunk = planned.width_mm < width - 0.005
  const size = `${written(planned.width_mm)} x ${written(planned.height_mm)} mm`
  return (
    <Flex align="center" gap="3" mt="1.5" fontSize="14px" color="ink2" wrap="wrap">
      <input
        type="range"
        aria-label="Patch size"
        aria-valuetext={`${shrunk ? `shrunk to ${size}` : `${width} mm`}, burns for ${minutes(seconds)} ${clockUnit(seconds)}`}
        min={SMALLEST_MM}
        max={Math.max(LARGEST_MM, Math.ceil(width))}
        step={0.5}
        value={width}
        className="size"
        onChange={(event) => pull(Number(event.currentTarget.value))}
        onPointerUp={settle}
        onBlur={settle}
      />
      <Text whiteSpace="nowrap" fontVariantNumeric="tabular-nums">
        {minutes(seconds)} {clockUnit(seconds)} · {footprint} mm
      </Text>
      {shrunk && (
        <Text color="ink" fontWeight="600" role="status" flexBasis="100%">
          shrunk to {size}, so that all fit
        </Text>
      )}
    </Flex>
  )
})
