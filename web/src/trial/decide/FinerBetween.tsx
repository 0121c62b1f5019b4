import { Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { answer, api } from '../../api/client'
import { useForgetLists } from '../../api/hooks'
import type { Neighbour } from '../../api/types'
import { Button } from '../../shared/Button'
import { SelectField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'

interface FinerBetweenProps {
  burn: number
  /** The patch that worked. */
  patch: string
  /** The patches that did not come out as it did. */
  failed: string[]
  neighbours: Neighbour[]
}

/** The next array: from the last patch that failed to the first that worked. */
export function FinerBetween({ burn, patch, failed: failing, neighbours }: FinerBetweenProps) {
  const { me } = useShop()
  const navigate = useNavigate()
  const forgetLists = useForgetLists()
  const nearest = neighbours.find((one) => one.holds === false)?.patch
  const [chosen, setChosen] = useState<string | null>(null)
  const failed = chosen ?? nearest ?? ''
  const begin = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/api/burns/{id}/finer', {
          params: { path: { id: burn } },
          body: { failed, worked: patch },
        }),
      ),
    onSuccess: ({ id }) => {
      void forgetLists()
      void navigate(`/trials/${id}/plan`)
    },
    onError: sayFailed,
  })
  if (!me.may_write || failing.length === 0) return null
  return (
    <Flex mt="3" pt="3" gap="2" align="flex-end" wrap="wrap" borderTopWidth="1px" borderColor="line">
      <Text fontSize="15px" pb="1.5">
        Finer steps from
      </Text>
      <SelectField
        label="Patch that failed"
        hideLabel
        compact
        value={failed}
        onPick={setChosen}
        options={[
          ...(failed === '' ? [{ value: '', label: 'choose' }] : []),
          ...failing.map((id) => ({ value: id, label: id })),
        ]}
      />
      <Text fontSize="15px" pb="1.5">
        to {patch}
      </Text>
      <Button ml="auto" disabled={failed === ''} loading={begin.isPending} onClick={() => begin.mutate()}>
        Plan them
      </Button>
    </Flex>
  )
}
