import { Box, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { ReactNode, SyntheticEvent } from 'react'

interface FoldProps {
  title: string
  /** What is set inside, in a few words, so that one need not open it to know. */
  says: string
  /** What is wrong with the design, and which paths of it stand in here: it is open while one of them is wrong. */
  errors?: ReadonlyMap<string, string>
  about?: readonly string[]
  children: ReactNode
}

/** A part of the plan that is seldom changed: one line until it is opened. */
export function Fold({ title, says, errors, about = [], children }: FoldProps) {
  const [open, setOpen] = useState(false)
  const wrong = [...(errors?.keys() ?? [])].some((path) =>
    about.some((key) => path === key || path.startsWith(`${key}.`)),
  )
  return (
    <Box
      as="details"
      {...{ open: open || wrong }}
      onToggle={({ currentTarget }: SyntheticEvent) => setOpen(currentTarget.hasAttribute('open'))}
      borderTopWidth="1px"
      borderColor="line"
      pt="1"
      mt="1.5"
      className="fold"
    >
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
