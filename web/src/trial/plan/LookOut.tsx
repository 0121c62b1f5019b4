import { memo } from 'react'
import { Button } from '../../shared/Button'
import { Box, Text } from '@chakra-ui/react'
import type { Plate } from '../../api/types'
import { Card } from '../../shared/Parts'
import { useInMyUnits } from '../../shared/ShopContext'
import { grouped } from './warnings'
import { patchesOf } from '../../shared/words'

const TITLES: Record<string, string> = {
  hot_end: 'may catch fire (slow and strong, hatched)',
  fire: 'get far more than is usual (hatched)',
  firing_floor: 'stay bare (too little power)',
  speed: 'too fast for the machine',
  max_power: 'too strong for the machine',
  field: 'outside the field',
  frequency: 'outside the frequency range',
  dropped: 'left out by their dose',
  burn_through: 'may burn through',
  stripes: 'leave stripes',
  burned_ground: 'on burned ground',
  corner_heat: 'hot at the corners',
  unshown: 'cannot be set as planned',
  pulse_width: 'with a pulse width the machine does not have',
  corner_power: 'with a corner power the machine should not have',
  dwell: 'would burn while the head stands',
  unwritable: 'cannot be written as planned',
}

/** What is said otherwise of a single patch. */
const OF_ONE: Record<string, string> = {
  fire: 'gets far more than is usual (hatched)',
  firing_floor: 'stays bare (too little power)',
  stripes: 'leaves stripes',
}

function title(kind: string, count: number): string {
  const one = count === 1 ? OF_ONE[kind] : undefined
  return one ?? TITLES[kind] ?? kind
}

interface LookOutProps {
  plate: Plate
  onLeaveOut: (ids: string[]) => void
  /** For those who may answer for a hazard that keeps the files back. */
  onAnswerFor?: () => void
}

/** What could go wrong, and the way out of it. */
export const LookOut = memo(function LookOut({ plate, onLeaveOut, onAnswerFor }: LookOutProps) {
  const inMyUnits = useInMyUnits()
  const groups = grouped(plate)
  if (groups.length === 0) return null
  const grave = groups.some((group) => group.level !== 'note')
  return (
    <Card
      p="3"
      bg={grave ? 'emberSoft' : 'steelSoft'}
      borderColor={grave ? 'ember' : 'steel'}
      role="status"
      aria-label="Warnings"
    >
      <Text
        as="h2"
        fontSize="12.5px"
        fontWeight="600"
        letterSpacing="0.06em"
        textTransform="uppercase"
        color={grave ? 'emberOnSoft' : 'steel'}
      >
        Look out
      </Text>
      {groups.map((group) => {
        const count = group.patches.length
        return (
          <Box key={`${group.kind}${inMyUnits(group.sentence)}`} mt="1" fontSize="14.5px">
            {count === 0 ? (
              <Text>
                {inMyUnits(group.sentence)}{' '}
                {group.kind === 'hazard' && group.level === 'refusal' && onAnswerFor && (
                  <Button look="link" size="sm" onClick={onAnswerFor}>
                    I answer for it
                  </Button>
                )}
              </Text>
            ) : (
              <Text>
                <strong>
                  {patchesOf(count)} {title(group.kind, count)}.
                </strong>{' '}
                {inMyUnits(group.sentence)}{' '}
                {count > 1 && (
                  <Text as="span" color="ink2">
                    Also {shortList(group.patches.slice(1))}.{' '}
                  </Text>
                )}
                <Button look="link" size="sm" onClick={() => onLeaveOut(group.patches)}>
                  Leave {count === 1 ? 'it' : 'them'} out
                </Button>
              </Text>
            )}
          </Box>
        )
      })}
    </Card>
  )
})

function shortList(ids: string[]): string {
  return ids.length > 8 ? `${ids.slice(0, 8).join(', ')} and ${ids.length - 8} more` : ids.join(', ')
}
