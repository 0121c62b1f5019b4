import { Box, Flex, Text } from '@chakra-ui/react'
import { Card } from '../../shared/Parts'
import { patchesOf } from '../../shared/words'
import { Treatment } from './Treatment'
import { useReader } from './useRead'

/** How far the plate is read: what wants an eye, what the photos read, what was overruled. */
export function ReadSoFar() {
  const { order, wanted, readings, photos, isOverruled } = useReader()
  const byPhoto = order.filter((id) => readings.readingOf(id)?.said_by === 'photo').length
  const overruled = order.filter(isOverruled).length
  const hasPhotos = photos.says.size > 0
  const done = order.length - wanted.length
  return (
    <Card p="3" bg={hasPhotos ? 'steelSoft' : 'card'}>
      <Flex justify="space-between" fontSize="15px" gap="3">
        <Text>
          <b>
            {done} of {order.length} read
          </b>
          {hasPhotos &&
            wanted.length > 0 &&
            `; ${patchesOf(wanted.length)} want${wanted.length === 1 ? 's' : ''} your eye`}
        </Text>
        <Text color="ink2" aria-live="polite">
          {readings.away > 0
            ? `no connection: ${patchesOf(readings.away)} kept here, sent when it is back`
            : readings.waiting
              ? 'keeping …'
              : 'kept'}
        </Text>
      </Flex>
      {hasPhotos && byPhoto + overruled > 0 && (
        <Text fontSize="14px" color="ink2">
          {[
            byPhoto > 0 && `${patchesOf(byPhoto)} read from the photos`,
            overruled > 0 && `${patchesOf(overruled)} the photos saw otherwise (dot at the corner)`,
          ]
            .filter(Boolean)
            .join(', ')}
          .
        </Text>
      )}
      <Treatment />
      <Box height="8px" borderRadius="4px" bg="line" overflow="hidden" mt="2">
        <Box height="100%" width={`${(100 * done) / Math.max(order.length, 1)}%`} bg="steel" />
      </Box>
    </Card>
  )
}
