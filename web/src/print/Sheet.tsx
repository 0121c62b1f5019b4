import { Box, Flex, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { Button } from '../shared/Button'
import './print.css'

/** A sheet of paper on the screen, with the one button that sends it to the printer. */
export function Sheet({ children }: { children: ReactNode }) {
  return (
    <Box>
      <Flex className="screen-only" gap="3" mb="4" align="center">
        <Button look="ember" onClick={() => window.print()}>
          Print
        </Button>
        <Text color="ink2">A4, upright, without the browser’s own header.</Text>
      </Flex>
      <Box className="sheet">{children}</Box>
    </Box>
  )
}
