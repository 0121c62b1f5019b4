import { Box, Flex, Text } from '@chakra-ui/react'
import { Play, Square } from 'lucide-react'
import { memo } from 'react'
import type { Design, Plate } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice } from '../../shared/Fields'
import { clockUnit, minutes, patchesOf } from '../../shared/words'
import type { Change } from './useDesign'

interface BurnOrderProps {
  order: Design['order']
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
