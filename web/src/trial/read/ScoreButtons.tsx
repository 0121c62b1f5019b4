import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import type { Process, Scale } from '../../api/types'
import { Key } from '../../shared/Parts'
import { lettered, withCannotTell, withDigit, withLetter, withShiftedDigit } from './scoring'
import { outcomeOf } from '../../shared/outcome'
import type { Scores } from './scoring'

interface ScoreButtonsProps {
  /** What can be read here. */
  scales: Scale[]
  process: Process
  words: string[]
  question: string
  scores: Scores
  /** How many patches are scored at once. */
  together: number
  /** What the photos say, while nobody has said anything. */
  suggested?: number | null
  /** What stands between the scores and the tags. */
  children?: ReactNode
  onScore: (scores: Scores, goOn: boolean) => void
  onNotBurned?: () => void
}

/** The same scores as the keys give, to press with a finger. */
export function ScoreButtons({
  process,
  scales,
  words,
  question,
  scores,
  together,
  suggested,
  children,
  onScore,
  onNotBurned,
}: ScoreButtonsProps) {
  const few = words.length <= 4
  const most = words.length - 1
  const chosen = outcomeOf(scores, process)
  const shifted = scales.find((scale) => scale.entry === 'shift_digit')
  const faceOf = (digit: number) => {
    if (chosen === digit) return { bg: 'ink', color: 'card', borderColor: 'ink', _hover: { bg: 'ink' } }
    if (chosen === null && suggested === digit)
      return { bg: 'emberSoft', color: 'ink', borderColor: 'ember', borderWidth: '2px' }
    return { bg: 'card', color: 'ink', borderColor: 'control', _hover: { bg: 'paper' } }
  }
  return (
    <Flex direction="column" gap="2.5">
      <Box role="group" aria-label={question}>
        <Text fontWeight="600" mb="1">
          {question}
          {together > 1 && ` All ${together} selected at once:`}
        </Text>
        {/* On a phone the scores stay at hand at the bottom, whatever part of the plate one looks at. */}
        <Grid
          templateColumns={`repeat(${words.length}, 1fr)`}
          gap="1.5"
          position={{ base: 'fixed', lg: 'static' }}
          left="0"
          right="0"
          bottom="0"
          zIndex={{ base: 'docked', lg: 'auto' }}
          p={{ base: '2', lg: '0' }}
          bg="card"
          borderTopWidth={{ base: '1px', lg: '0' }}
          borderColor="line"
        >
          {words.map((word, digit) => (
            <Button
              key={word}
              look="quiet"
              height="58px"
              px="1"
              aria-pressed={chosen === digit}
              {...faceOf(digit)}
              onClick={() => {
                const next = withDigit(scores, digit, process, most)
                if (next) onScore(next, true)
              }}
            >
              <Flex direction="column" align="center" lineHeight="1.15">
                <Text fontFamily="numeral" fontSize="24px" fontWeight="700">
                  {digit}
                </Text>
                <Text fontSize={few ? '13.5px' : '12.5px'} fontWeight="500">
                  {word}
                </Text>
              </Flex>
            </Button>
          ))}
        </Grid>
      </Box>
      {children}
      {shifted && (
        <Box role="group" aria-label={shifted.question}>
          <Text fontSize="14px" color="ink2" mb="1">
            {shifted.question} <Key>Shift</Key> and the digit
          </Text>
          <Grid templateColumns={`repeat(${shifted.words.length}, 1fr)`} gap="1.5">
            {shifted.words.map((word, digit) => (
              <Toggle
                key={word}
                on={scores.values[shifted.key] === digit}
                onClick={() => {
                  const next = withShiftedDigit(scores, digit, scales)
                  if (next) onScore(next, false)
                }}
              >
                {digit} {word}
              </Toggle>
            ))}
          </Grid>
        </Box>
      )}
      <Flex gap="1.5" wrap="wrap" role="group" aria-label="Tags">
        {lettered(scales).map(({ key, letter, name, kind, words }) => {
          const degree = Number(scores.values[key] ?? 0)
          return (
            <Toggle
              key={letter}
              on={degree > 0}
              onClick={() => onScore(withLetter(scores, letter, scales), false)}
            >
              <Key>{letter}</Key> {name} {kind === 'degrees' && degree > 0 && <b>{words[degree]}</b>}
            </Toggle>
          )
        })}
        <Toggle on={scores.cannot_tell} onClick={() => onScore(withCannotTell(scores, process), true)}>
          <Key>t</Key> can't tell
        </Toggle>
        {onNotBurned && (
          <Toggle on={false} onClick={onNotBurned}>
            <Key>o</Key> not burned
          </Toggle>
        )}
      </Flex>
    </Flex>
  )
}

function Toggle({ on, onClick, children }: { on: boolean; onClick: () => void; children: React.ReactNode }) {
  return (
    <Button
      look="quiet"
      size="sm"
      height={{ base: '44px', md: '34px' }}
      px="1.5"
      gap="1"
      fontSize="13.5px"
      aria-pressed={on}
      bg={on ? 'ink' : 'card'}
      color={on ? 'card' : 'ink'}
      _hover={on ? { bg: 'ink' } : { bg: 'paper' }}
      onClick={onClick}
    >
      {children}
    </Button>
  )
}
