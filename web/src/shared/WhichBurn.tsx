import type { BurnChoice } from '../api/types'
import { Box, Flex, Text } from '@chakra-ui/react'
import { Button } from './Button'
import { dayAndTime } from './words'

/** One of the burns a photo may show. */
interface WhichBurnProps {
  question: string
  choices: BurnChoice[]
  onChoose: (burn: number) => void
  onCancel: () => void
}

/** A plate that was burned several times carries one code on all: somebody has to say which the photo shows. */
export function WhichBurn({ question, choices, onChoose, onCancel }: WhichBurnProps) {
  return (
    <Box
      role="dialog"
      aria-label="Which burn does this photo show?"
      position="fixed"
      bottom="20px"
      left="0"
      right="0"
      mx="auto"
      width="fit-content"
      maxW="calc(100vw - 32px)"
      zIndex="toast"
      borderRadius="card"
      borderWidth="1px"
      borderColor="steel"
      bg="card"
      p="4"
    >
      <Text fontWeight="600" fontSize="17px" mb="2">
        {question}
      </Text>
      <Flex direction="column" gap="2">
        {choices.map((burn) => (
          <Button key={burn.id} look="quiet" size="lg" onClick={() => onChoose(burn.id)}>
            {[`${dayAndTime(burn.at)}, ${burn.by_name}`, burn.lot].filter(Boolean).join(' · ')}
          </Button>
        ))}
        <Button look="link" onClick={onCancel}>
          Leave the photo out
        </Button>
      </Flex>
    </Box>
  )
}
