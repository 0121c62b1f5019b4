import { Box } from '@chakra-ui/react'
import type { Patch, Plate } from '../api/types'
import { PhotoOfPlate } from './PhotoOfPlate'
import { placed } from './geometry'

interface PatchCropProps {
  href: string
  plate: Plate['plate']
  box: Pick<Patch, 'x_mm' | 'y_mm' | 'width_mm' | 'height_mm'>
  mirrored?: boolean
  label: string
  /** How much more than the patch is to be seen. */
  around?: number
}

/** One patch and the ground around it, out of the flattened photo; the back as one sees it from there. */
export function PatchCrop({ href, plate, box, mirrored = false, label, around = 1.5 }: PatchCropProps) {
  const { width_mm: width, height_mm: height } = plate
  const side = Math.max(box.width_mm, box.height_mm) * around
  const left = placed(box.x_mm, box.width_mm, width, mirrored) - (side - box.width_mm) / 2
  const top = height - box.y_mm - box.height_mm - (side - box.height_mm) / 2
  return (
    <Box borderRadius="control" overflow="hidden" bg="line" aspectRatio="1">
      <svg
        viewBox={`${left} ${top} ${side} ${side}`}
        width="100%"
        height="100%"
        role="img"
        aria-label={label}
        style={{ display: 'block' }}
      >
        <PhotoOfPlate href={href} width={width} height={height} mirrored={mirrored} />
      </svg>
    </Box>
  )
}
