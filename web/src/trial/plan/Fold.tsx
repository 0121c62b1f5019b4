import { Box, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'

interface FoldProps {
  title: string
  /** What is set inside, in a few words, so that one need not open it to know. */
  says: string
  children: ReactNode
}

/** A part of the plan that is seldom changed: one line until it is opened. */
export function Fold({ title, says, children }: FoldProps) {
  return (
    <Box as="details" borderTopWidth="1px" borderColor="line" pt="1" mt="1.5" className="fold">
      <Box as="summary" cursor="pointer" minH="32px" display="flex" alignItems="center" gap="2">
        <Text as="span" fontSize="15px" fontWeight="600">
          {title}
        </Text>
        <Text as="span" fontSize="14px" color="ink2" truncate>
          {says}
        </Text>
      </Box>
      <Box pb="2" pt="1">
        {children}
      </Box>
    </Box>
  )
}
