import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import type { Neighbour } from '../../api/types'
import { Button } from '../../shared/Button'
import { SelectField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { useBegun } from '../../recipes/useBegun'

interface FinerBetweenProps {
  burn: number
  /** Which of several steps it is about. */
  step: number | undefined
  patch: string
  /** Whether this patch is the one that failed. */
  failed: boolean
  /** The patches that came out otherwise: the other end. */
  others: string[]
  neighbours: Neighbour[]
}

/** The next array: from the last patch that failed to the first that worked. */
export function FinerBetween({ burn, step, patch, failed, others, neighbours }: FinerBetweenProps) {
  const { me } = useShop()
  const nearest = neighbours.find((one) => others.includes(one.patch))?.patch
  const [chosen, setChosen] = useState<string | null>(null)
  const other = chosen ?? nearest ?? ''
  const begin = useBegun(() =>
    answer(
      api.POST('/api/burns/{id}/finer', {
        params: { path: { id: burn }, query: { step } },
        body: failed ? { failed: patch, worked: other } : { failed: other, worked: patch },
      }),
    ),
  )
  if (!me.may_write || others.length === 0) return null
  const choose = (
    <SelectField
      label={failed ? 'Patch that came out' : 'Patch that failed'}
      hideLabel
      compact
      value={other}
      onPick={setChosen}
      options={[
        ...(other === '' ? [{ value: '', label: 'choose' }] : []),
        ...others.map((id) => ({ value: id, label: id })),
      ]}
    />
  )
  return (
    <Flex mt="3" pt="3" gap="2" align="center" wrap="wrap" borderTopWidth="1px" borderColor="line">
      <Text fontSize="15px">Finer steps from</Text>
      {failed ? <Text fontWeight="600">{patch}</Text> : choose}
      <Text fontSize="15px">to</Text>
      {failed ? choose : <Text fontWeight="600">{patch}</Text>}
      <Button ml="auto" disabled={other === ''} loading={begin.isPending} onClick={() => begin.mutate()}>
        Plan them
      </Button>
    </Flex>
  )
}
