import { Box, Flex, Text } from '@chakra-ui/react'
import type { Plate } from '../../api/types'
import { Button } from '../../shared/Button'
import { Card, Section } from '../../shared/Parts'
import { useTabState } from '../../shared/useTabState'
import { ALWAYS_SHOWN, typingWords } from '../../shared/words'

/** Figures whose unit says what they are. */
const NAMED = ['speed_mm_s', 'power_pct']

/** What is typed into the machine's control, row by row: large, in its own units, what changes in ink and the rest pale;
 * each is ticked off when it has burned. */
export function TypingSheet({ plate, code }: { plate: Plate; code: string }) {
  const rows = plate.typing?.rows ?? []
  const [done, setDone] = useTabState<number[]>(`typed.${code}`, [])
  if (rows.length === 0) return null
  const next = rows.find((row) => !done.includes(row.number))
  const toggle = (number: number) =>
    setDone((now) => (now.includes(number) ? now.filter((one) => one !== number) : [...now, number]))
  return (
    <Card p="4">
      <Section title={`To type: ${done.length} of ${rows.length} done`}>
        <Flex direction="column" gap="1.5" maxH={{ lg: '420px' }} overflowY="auto" role="list">
          {rows.map((row) => {
            const ticked = done.includes(row.number)
            const shown = row.values.filter(
              (one) => one.changed || (row === next && ALWAYS_SHOWN.includes(one.key)),
            )
            return (
              <Flex
                key={row.number}
                role="listitem"
                gap="2"
                align="center"
                p="2"
                borderWidth={row === next ? '2px' : '1px'}
                borderColor={row === next ? 'ember' : 'line'}
                borderRadius="control"
                opacity={ticked ? 0.55 : 1}
              >
                <Box flex="1" minW="0">
                  {row.step && (
                    <Text fontSize="14px" color="ink2" fontWeight="600">
                      {row.step}
                    </Text>
                  )}
                  <Flex gap="3" wrap="wrap" align="baseline">
                    {shown.map((one) => (
                      <Text
                        key={one.key}
                        fontFamily="numeral"
                        fontSize={row === next ? '26px' : '19px'}
                        fontWeight={one.changed ? 700 : 500}
                        color={one.changed ? 'ink' : 'ink3'}
                        lineHeight="1.15"
                      >
                        {one.text}{' '}
                        <Text as="span" fontFamily="body" fontSize="14px" fontWeight="400">
                          {NAMED.includes(one.key) ? one.unit : `${one.unit} ${one.name}`.trim()}
                        </Text>
                      </Text>
                    ))}
                  </Flex>
                  <Text fontSize="13.5px" color="ink2" truncate>
                    {row.patches.join(' ')}
                  </Text>
                </Box>
                <Button
                  look={row === next ? 'ember' : 'quiet'}
                  minW="76px"
                  height="48px"
                  aria-pressed={ticked}
                  aria-label={`Setting ${row.number} ${ticked ? 'is done' : 'has burned'}`}
                  onClick={() => toggle(row.number)}
                >
                  {ticked ? '✓' : 'done'}
                </Button>
              </Flex>
            )
          })}
        </Flex>
        <Text mt="2" fontSize="14px" color="ink2">
          {plate.typing && typingWords(plate.typing)}
        </Text>
      </Section>
    </Card>
  )
}
