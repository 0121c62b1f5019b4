import { Box, Flex, Text } from '@chakra-ui/react'
import type { Design } from '../../api/types'
import { Choice, TextField } from '../../shared/Fields'

type Letters = NonNullable<Design['patch']['letters']>

interface LettersFieldProps {
  label: string
  text: string
  /** How they are drawn; nothing said is as usual. */
  letters: Letters | null | undefined
  /** Whether they are filled: then they are outlines. */
  filled: boolean
  onText: (text: string) => void
  onLetters: (letters: Letters) => void
}

const WAYS: { value: Letters; label: string }[] = [
  { value: 'strokes', label: 'single strokes' },
  { value: 'outlines', label: 'outlines' },
]

/** Letters to burn, and how they are drawn. */
export function LettersField({ label, text, letters, filled, onText, onLetters }: LettersFieldProps) {
  return (
    <Box mt="2">
      <TextField label={label} value={text} onChange={(event) => onText(event.currentTarget.value)} />
      {!filled && text && (
        <Flex mt="2" gap="2" align="center">
          <Text fontSize="13.5px" color="ink2">
            drawn in
          </Text>
          <Choice
            label={`${label}: drawn in`}
            value={letters ?? 'strokes'}
            options={WAYS}
            onPick={onLetters}
          />
        </Flex>
      )}
    </Box>
  )
}
