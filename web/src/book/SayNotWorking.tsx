import { Box, Flex } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { ProcessKey } from '../api/types'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'

interface SayNotWorkingProps {
  process: ProcessKey
  material: number
  head: number
  reason: string | null
}

/** A technician notes that something does not work at all, so that the map stops calling it a gap. */
export function SayNotWorking({ process, material, head, reason }: SayNotWorkingProps) {
  const { me } = useShop()
  const forget = useForgetLists()
  const [writing, setWriting] = useState(false)
  const [text, setText] = useState('')
  const say = useMutation({
    mutationFn: (why: string | null) =>
      answer(api.PUT('/api/map/not-working', { body: { process, material, head, reason: why } })),
    onSuccess: () => forget(),
    onError: sayFailed,
  })
  if (!me.may_prove) return null
  if (reason !== null) {
    return (
      <Button size="sm" loading={say.isPending} onClick={() => say.mutate(null)}>
        It is open again
      </Button>
    )
  }
  if (!writing) {
    return (
      <Button look="link" size="sm" mt="3" onClick={() => setWriting(true)}>
        It does not work at all
      </Button>
    )
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        say.mutate(text)
      }}
    >
      <Flex gap="2" mt="3" align="flex-end">
        <Box flex="1">
          <TextField
            label="Why not"
            placeholder="reflects nearly all of the beam"
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
        </Box>
        <Button type="submit" disabled={!text.trim()} loading={say.isPending}>
          Note it
        </Button>
      </Flex>
    </form>
  )
}
