import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { HandStop } from '../../api/types'
import { Button } from '../../shared/Button'
import { TextField } from '../../shared/Fields'

interface HandTurnProps {
  stop: HandStop
  /** Who may let it go on: whoever holds the control. */
  mine: boolean
  onTurned: (shown: Record<string, string>) => void
}

/** What somebody has to turn before it goes on, large, and what the control then really shows. */
export function HandTurn({ stop, mine, onTurned }: HandTurnProps) {
  const [read, setRead] = useState<Record<string, string>>({})
  return (
    <form
      aria-label="Set by hand"
      onSubmit={(event) => {
        event.preventDefault()
        if (mine) onTurned(read)
      }}
    >
      <Text role="status" fontSize="20px" fontWeight="700" lineHeight="1.25">
        {stop.sentence}
      </Text>
      <Text fontSize="14px" color="ink2" mb="2">
        The beam is off. For {stop.parts.join(' ')}.
      </Text>
      <Flex gap="2" wrap="wrap" align="flex-end">
        {stop.settings.map(({ key, name, shown, unit }) => (
          <TextField
            key={key}
            label={`${name} as read off${unit ? `, ${unit}` : ''}`}
            value={read[key] ?? shown}
            onChange={({ currentTarget }) => setRead((before) => ({ ...before, [key]: currentTarget.value }))}
            inputMode="decimal"
          />
        ))}
      </Flex>
      <Button
        type="submit"
        look="emberLine"
        width="100%"
        height="56px"
        fontSize="17px"
        mt="2"
        disabled={!mine}
      >
        It is set, and I stand here: go on
      </Button>
    </form>
  )
}
