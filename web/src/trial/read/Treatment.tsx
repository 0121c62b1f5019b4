import { Flex, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { trialKey } from '../../api/hooks'
import type { TreatmentKey } from '../../api/types'
import { outcomeOf } from '../../shared/outcome'
import { SelectField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { treatmentKey, useReader } from './useRead'

/** How the piece was treated before it is read: each has readings of its own, and one of them is what it is judged by. */
export function Treatment() {
  const { page, mayScore, readings } = useReader()
  const { treatments } = useShop().inventory.forms
  const client = useQueryClient()
  const burn = page.burn
  const judge = useMutation({
    mutationKey: treatmentKey(burn?.id),
    mutationFn: (treatment: TreatmentKey) =>
      answer(
        api.PUT('/api/burns/{id}/treatment', {
          params: { path: { id: burn?.id ?? 0 } },
          body: { treatment },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: trialKey(page.id) }),
    onError: sayFailed,
  })
  if (!burn || !mayScore) return null
  return (
    <Flex align="center" gap="2" fontSize="15px">
      <Text>The piece is</Text>
      <SelectField
        label="The piece is"
        hideLabel
        compact
        value={burn.treatment}
        disabled={readings.waiting || judge.isPending}
        onPick={(key) => judge.mutate(key as TreatmentKey)}
        options={treatments.map(({ key, name }) => ({ value: key, label: name }))}
      />
    </Flex>
  )
}

/** What was read of a patch while the piece was treated otherwise. */
export function ReadBefore({ patch }: { patch: string }) {
  const { page, process, words } = useReader()
  const { treatments } = useShop().inventory.forms
  const said = page.otherwise_read.flatMap(({ treatment, readings }) => {
    const reading = readings.find((one) => one.patch === patch && one.face === process.deciding_face)
    const came = reading && outcomeOf(reading, process)
    if (came === null || came === undefined) return []
    return [`${treatments.find(({ key }) => key === treatment)?.name}: ${came} ${words[came] ?? ''}`.trim()]
  })
  if (said.length === 0) return null
  return (
    <Text fontSize="14.5px" color="ink2">
      {said.join(' · ')}
    </Text>
  )
}
