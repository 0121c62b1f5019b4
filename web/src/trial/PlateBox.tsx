import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import type { Plate } from '../api/types'

interface PlateBoxProps {
  plate: Plate
  /** What stands above and below the plate on this stage, in pixels of the window's height. */
  around: number
  children: ReactNode
}

/** The one place of the plate: as high as the window allows and just as wide as that makes it. */
export function PlateBox({ plate, around, children }: PlateBoxProps) {
  const { width_mm: width, height_mm: height } = plate.plate
  // A flat plate takes no more height than its width gives it, rulers included: so much of a phone, or beside the side.
  const flat = (room: string) => `calc(${room} * ${(height / width).toFixed(3)} + 72px)`
  return (
    <Box
      height={{
        base: `min(330px, ${flat('(100vw - 32px)')})`,
        lg: `min(max(330px, calc(100vh - ${around}px)), ${flat('66vw')})`,
      }}
      maxW="100%"
      mx="auto"
      style={{ aspectRatio: `${width} / ${height}` }}
    >
      {children}
    </Box>
  )
}
