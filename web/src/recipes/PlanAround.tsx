import { Flex } from '@chakra-ui/react'
import { Button } from '../shared/Button'
import { useNavigate } from 'react-router'
import { useMutation } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { useForgetLists, useNewTrial } from '../api/hooks'
import type { ProcessKey } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'

interface PlanAroundProps {
  process: ProcessKey
  material: number
  head: number
  /** The one thing to do next, where there is no recipe yet. */
  first?: boolean
}

/** Opens a new plan around what a burned patch got. */
export function PlanAroundPatch({ burn, patch }: { burn: number; patch: string }) {
  const { me } = useShop()
  const navigate = useNavigate()
  const forget = useForgetLists()
  const begin = useMutation({
    mutationFn: () =>
      answer(api.POST('/api/burns/{id}/patches/{patch}/around', { params: { path: { id: burn, patch } } })),
    onSuccess: ({ id }) => {
      void forget()
      void navigate(`/trials/${id}/plan`)
    },
    onError: sayFailed,
  })
  if (!me.may_write) return null
  return (
    <Button size="sm" loading={begin.isPending} onClick={() => begin.mutate()}>
      Plan around it
    </Button>
  )
}

/** Opens a new plan around what is known: an array, or coupon by coupon. */
export function PlanAround({ process, material, head, first = false }: PlanAroundProps) {
  const { me } = useShop()
  const navigate = useNavigate()
  const begin = useNewTrial()
  if (!me.may_write) return <AskSomebody least="member" to="plan an array" />
  const start = (one_by_one: boolean) =>
    begin.mutate(
      { process, material, head, one_by_one },
      {
        onSuccess: ({ id }) => void navigate(`/trials/${id}/${one_by_one ? 'burn' : 'plan'}`),
        onError: sayFailed,
      },
    )
  return (
    <Flex gap="2" wrap="wrap">
      <Button
        look={first ? 'ember' : 'emberLine'}
        size="lg"
        loading={begin.isPending && !begin.variables.one_by_one}
        onClick={() => start(false)}
      >
        {first ? 'Plan an array' : 'Plan an array around it'}
      </Button>
      <Button
        look="quiet"
        size="lg"
        loading={begin.isPending && begin.variables.one_by_one}
        onClick={() => start(true)}
      >
        Burn coupon by coupon
      </Button>
    </Flex>
  )
}
