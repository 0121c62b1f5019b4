import { Button } from '../../shared/Button'
import { Box, Text } from '@chakra-ui/react'
import type { Plate, PlateWarning } from '../../api/types'
import { Card } from '../../shared/Parts'

export interface WarningGroup {
  kind: string
  level: PlateWarning['level']
  patches: string[]
  sentence: string
}

/** Warnings of one kind together, the gravest first: one sentence, and the patches it is about. */
export function grouped(plate: Plate): WarningGroup[] {
  const groups = new Map<string, WarningGroup>()
  const add = (warning: PlateWarning, patch: string | null) => {
    const key = `${warning.kind} ${warning.level} ${patch === null ? warning.sentence : ''}`
    const group = groups.get(key) ?? {
      kind: warning.kind,
      level: warning.level,
      patches: [],
      sentence: warning.sentence,
    }
    if (patch !== null) group.patches.push(patch)
    groups.set(key, group)
  }
  for (const warning of plate.warnings) add(warning, null)
  for (const patch of plate.patches) for (const warning of patch.warnings) add(warning, patch.id)
  const gravity = { refusal: 0, warning: 1, note: 2 }
  return [...groups.values()].sort((a, b) => gravity[a.level] - gravity[b.level])
}

const TITLES: Record<string, string> = {
  hot_end: 'may catch fire (slow and strong, hatched)',
  firing_floor: 'stay bare (too little power)',
  speed: 'too fast for the machine',
  max_power: 'too strong for the machine',
  field: 'outside the field',
  frequency: 'outside the frequency range',
  pulse_width: 'with a pulse width the machine does not have',
}

interface LookOutProps {
  plate: Plate
  onLeaveOut: (ids: string[]) => void
}

/** What could go wrong, and the way out of it. */
export function LookOut({ plate, onLeaveOut }: LookOutProps) {
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
          <Box key={`${group.kind}${group.sentence}`} mt="1" fontSize="14.5px">
            {count === 0 ? (
              <Text>{group.sentence}</Text>
            ) : (
              <Text>
                <strong>
                  {count === 1 ? '1 patch ' : `${count} patches `}
                  {TITLES[group.kind] ?? group.kind}.
                </strong>{' '}
                {group.sentence}{' '}
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
}

function shortList(ids: string[]): string {
  return ids.length > 8 ? `${ids.slice(0, 8).join(', ')} and ${ids.length - 8} more` : ids.join(', ')
}
