import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Check, X } from 'lucide-react'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { FailedBecause, Recipe } from '../api/types'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { day } from '../shared/words'

/** `held 4 times, last on 19 Nov · failed once, on 3 Nov`. */
export function confirmedWords(
  recipe: Pick<Recipe, 'held' | 'held_at' | 'failed' | 'failed_at'>,
  now?: Date,
): string {
  const times = (count: number, at: string | null, did: string) =>
    count === 0 || at === null
      ? null
      : count === 1
        ? `${did} once, on ${day(at, now)}`
        : `${did} ${count} times, last on ${day(at, now)}`
  return [times(recipe.held, recipe.held_at, 'held'), times(recipe.failed, recipe.failed_at, 'failed')]
    .filter(Boolean)
    .join(' · ')
}

/** One tap at the machine: it held, or it did not, and then in one more why. */
export function ConfirmTaps({ recipe }: { recipe: Recipe }) {
  const { me, inventory } = useShop()
  const forget = useForgetLists()
  const [asking, setAsking] = useState(false)
  const [note, setNote] = useState('')
  const takeBack = useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/confirmations/{id}', { params: { path: { id } } })),
    onSuccess: () => forget(),
    onError: sayFailed,
  })
  const tap = useMutation({
    mutationFn: (said: { held: boolean; reason?: FailedBecause; note?: string }) =>
      answer(
        api.POST('/api/recipes/{id}/confirmations', { params: { path: { id: recipe.id } }, body: said }),
      ),
    onSuccess: async ({ id }, { held }) => {
      setAsking(false)
      setNote('')
      await forget()
      sayDone(held ? 'Noted: it held.' : 'Noted: it did not hold.', () => takeBack.mutate(id))
    },
    onError: sayFailed,
  })
  if (!me.may_write || recipe.standing === 'retired') return null
  const reasons = inventory.failed_because.filter((one) => one.processes.includes(recipe.process))
  return (
    <Box width={asking ? '100%' : undefined}>
      <Flex gap="2" wrap="wrap">
        <Button
          size="lg"
          px="4"
          loading={tap.isPending && tap.variables.held}
          onClick={() => tap.mutate({ held: true })}
        >
          <Check size={18} /> It held
        </Button>
        <Button size="lg" px="4" aria-expanded={asking} onClick={() => setAsking(!asking)}>
          <X size={18} /> It did not
        </Button>
      </Flex>
      {asking && (
        <Box
          as="fieldset"
          mt="3"
          pt="3"
          border="0"
          p="0"
          aria-label="Why it did not hold"
          onKeyDown={(event) => event.key === 'Escape' && setAsking(false)}
        >
          <Text fontWeight="600" mb="1.5">
            Why not?
          </Text>
          <Flex gap="2" wrap="wrap">
            {reasons.map((one) => (
              <Button
                key={one.key}
                minH="44px"
                loading={tap.isPending && tap.variables.reason === one.key}
                onClick={() => tap.mutate({ held: false, reason: one.key, note })}
              >
                {one.name}
              </Button>
            ))}
          </Flex>
          <Box mt="2" maxW="420px">
            <TextField
              label="A line about it, before the tap (may be empty)"
              value={note}
              placeholder="what the next one should know"
              onChange={(event) => setNote(event.currentTarget.value)}
            />
          </Box>
        </Box>
      )}
    </Box>
  )
}

export function ConfirmedText({ recipe }: { recipe: Recipe }) {
  const words = confirmedWords(recipe)
  return words ? (
    <Text as="span" color="ink2">
      {words}
    </Text>
  ) : null
}
