import { Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Check, X } from 'lucide-react'
import { answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { Recipe } from '../api/types'
import { Button } from '../shared/Button'
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

/** One tap at the machine: it held, or it did not. */
export function ConfirmTaps({ recipe }: { recipe: Recipe }) {
  const { me } = useShop()
  const forget = useForgetLists()
  const takeBack = useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/confirmations/{id}', { params: { path: { id } } })),
    onSuccess: () => forget(),
    onError: sayFailed,
  })
  const tap = useMutation({
    mutationFn: (held: boolean) =>
      answer(
        api.POST('/api/recipes/{id}/confirmations', { params: { path: { id: recipe.id } }, body: { held } }),
      ),
    onSuccess: async ({ id }, held) => {
      await forget()
      sayDone(held ? 'Noted: it held.' : 'Noted: it did not hold.', () => takeBack.mutate(id))
    },
    onError: sayFailed,
  })
  if (!me.may_write || recipe.standing === 'retired') return null
  const button = (held: boolean) => (
    <Button
      size="lg"
      px="4"
      loading={tap.isPending && tap.variables === held}
      onClick={() => tap.mutate(held)}
      aria-label={held ? 'It held' : 'It did not hold'}
    >
      {held ? <Check size={18} /> : <X size={18} />}
      {held ? 'It held' : 'It did not'}
    </Button>
  )
  return (
    <Flex gap="2" wrap="wrap">
      {button(true)}
      {button(false)}
    </Flex>
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
