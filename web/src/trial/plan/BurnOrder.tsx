import { Box, Flex, Text } from '@chakra-ui/react'
import { Play, Square } from 'lucide-react'
import { memo } from 'react'
import type { Design, Plate } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice, SelectField } from '../../shared/Fields'
import { clockUnit, minutes, patchesOf } from '../../shared/words'
import type { Change } from './useDesign'

const TIMES = [1, 2, 3, 4, 5, 6, 8, 10].map((count) => ({
  value: String(count),
  label: count === 1 ? 'each once' : `each ${count} times`,
}))

interface BurnOrderProps {
  order: Design['order']
  /** All of the array so many times; undefined of a list, whose lines are repeated one by one. */
  repeats?: Design['repeats']
  cooling: Plate['cooling']
  /** Time on the ways between, s. */
  travel: number
  playing: boolean
  onPlay: () => void
  change: Change
}

/** The order of burning, what it is worth, and playing it on the plate. */
export const BurnOrder = memo(function BurnOrder({
  order,
  repeats,
  cooling,
  travel,
  playing,
  onPlay,
  change,
}: BurnOrderProps) {
  const { least_apart: apart, best_apart: best, shortest_wait_s: wait } = cooling
  return (
    <Box mt="2">
      <Flex align="center" gap="2" wrap="wrap">
        <Choice<Design['order']>
          label="Order"
          value={order}
          onPick={(chosen) => change((design) => ({ ...design, order: chosen }))}
          options={[
            { value: 'weakest_first', label: 'weakest first' },
            { value: 'rows', label: 'row by row' },
            { value: 'scattered', label: 'scattered' },
          ]}
        />
        {repeats !== undefined && (
          <SelectField
            label="Each patch"
            hideLabel
            compact
            value={String(repeats ?? 1)}
            onPick={(times) =>
              change((design) => ({
                ...design,
                off: [],
                overrides: {},
                repeats: times === '1' ? null : Number(times),
              }))
            }
            options={TIMES}
          />
        )}
        <Button
          size="sm"
          minH="34px"
          onClick={onPlay}
          aria-label={playing ? 'Stop playing the order' : 'Play the order on the plate'}
        >
          {playing ? <Square size={15} /> : <Play size={15} />}
        </Button>
      </Flex>
      {wait !== null && (
        <Text fontSize="14px" color="ink2" mt="1">
          Neighbours wait {shortTime(wait)} at least
          {apart !== null && `, ${patchesOf(apart)} apart`}
          {order === 'scattered' && best !== null && ` of ${best} possible`}. Ways between: {minutes(travel)}{' '}
          {clockUnit(travel)}.
        </Text>
      )}
    </Box>
  )
})

function shortTime(seconds: number): string {
  return seconds < 100 ? `${Number(seconds.toPrecision(2))} s` : `${minutes(seconds)} ${clockUnit(seconds)}`
}
