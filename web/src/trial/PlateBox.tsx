import { Box } from '@chakra-ui/react'
import type { ReactNode } from 'react'

/** The one place of the plate, the same in burning, reading and deciding. */
export function PlateBox({ children }: { children: ReactNode }) {
  return <Box height={{ base: '340px', lg: 'max(340px, calc(100vh - 320px))' }}>{children}</Box>
}
