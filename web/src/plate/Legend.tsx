import { Flex, Text } from '@chakra-ui/react'
import { palette } from '../theme/palette'
import { SvgText } from './SvgText'
import { outcomeColour, onOutcome } from './scales'

/** The outcome glyphs with their words. */
export function Legend({ words }: { words: string[] }) {
  const most = words.length - 1
  return (
    <Flex wrap="wrap" gap="3" fontSize="13px" color="ink2" aria-label="Outcomes" role="list">
      {words.map((word, outcome) => (
        <Flex key={word} align="center" gap="1.5" role="listitem">
          <svg width="18" height="18" viewBox="0 0 18 18" aria-hidden="true">
            <circle
              cx="9"
              cy="9"
              r="8"
              fill={outcomeColour(outcome, most)}
              stroke={palette.ink3}
              strokeWidth="0.6"
            />
            <SvgText x={9} y={13} size={11} weight={700} colour={onOutcome(outcome, most)}>
              {outcome}
            </SvgText>
          </svg>
          <Text>{word}</Text>
        </Flex>
      ))}
    </Flex>
  )
}
