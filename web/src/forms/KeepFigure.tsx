import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { useKeepFigure } from '../api/figures'
import type { OwnFigure } from '../api/figures'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { sayDone } from '../shared/toast'

interface KeepFigureProps {
  figure: OwnFigure
  /** A name to begin with. */
  called?: string
  onKept?: () => void
}

/** Keeps a figure for the whole shop, under a name. */
export function KeepFigure({ figure, called = '', onKept }: KeepFigureProps) {
  const [name, setName] = useState(called)
  const keep = useKeepFigure()
  const done = () => {
    sayDone(`The shop keeps ${name.trim()}.`)
    setName('')
    onKept?.()
  }
  return (
    <Box mt="2">
      <Flex gap="2" align="flex-end">
        <Box flex="1">
          <TextField
            label="Keep this figure as"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
        </Box>
        <Button
          disabled={!name.trim()}
          loading={keep.isPending}
          onClick={() => keep.mutate({ name, figure }, { onSuccess: done })}
        >
          Keep
        </Button>
      </Flex>
      {keep.error && (
        <Text role="alert" color="emberOnSoft" fontSize="14px" mt="1">
          {keep.error.message}
        </Text>
      )}
    </Box>
  )
}
