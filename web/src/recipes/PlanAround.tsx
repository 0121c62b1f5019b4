import { Flex, Text } from '@chakra-ui/react'
import { Button } from '../shared/Button'
import { useNavigate } from 'react-router'
import { answer, api } from '../api/client'
import { useNewTrial } from '../api/hooks'
import type { BegunAs, ProcessKey } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'
import { useBegun } from './useBegun'

interface PlanAroundProps {
  process: ProcessKey
  material: number
  head: number
  /** The one thing to do next, where there is no recipe yet. */
  first?: boolean
  /** Why one begins with a short ladder; empty where an array is as good. */
  ladder?: string
  /** Whether a starter board holds this and other work of the sheet. */
  onABoard?: boolean
}

/** Opens a new plan around what a burned patch got. */
export function PlanAroundPatch({ burn, patch }: { burn: number; patch: string }) {
  const { me } = useShop()
  const begin = useBegun(() =>
    answer(api.POST('/api/burns/{id}/patches/{patch}/around', { params: { path: { id: burn, patch } } })),
  )
  if (!me.may_write) return null
  return (
    <Button size="sm" loading={begin.isPending} onClick={() => begin.mutate()}>
      Plan around it
    </Button>
  )
}

interface Way {
  as: BegunAs
  name: string
}

/** Opens a new plan around what is known: an array, a short ladder, or coupon by coupon; `ladder` says why the ladder comes
 * first, where it does. */
export function PlanAround({
  process,
  material,
  head,
  first = false,
  ladder = '',
  onABoard = false,
}: PlanAroundProps) {
  const { me } = useShop()
  const navigate = useNavigate()
  const begin = useNewTrial()
  if (!me.may_write) return <AskSomebody least="member" to="plan an array" />
  const start = (begun_as: BegunAs) =>
    begin.mutate(
      { process, material, head, begun_as },
      {
        onSuccess: ({ id }) => void navigate(`/trials/${id}/${begun_as === 'coupons' ? 'burn' : 'plan'}`),
        onError: sayFailed,
      },
    )
  const array: Way = { as: 'array', name: first ? 'Plan an array' : 'Plan an array around it' }
  const short: Way = { as: 'ladder', name: 'Plan a short ladder' }
  const coupons: Way = { as: 'coupons', name: 'Burn coupon by coupon' }
  const board: Way = { as: 'board', name: 'Plan a starter board' }
  // A sheet nobody knows, meant for several kinds of work, gets all of them on one board.
  const boards = first && onABoard ? [board] : []
  // Around what is known an array tells how much it forgives.
  const ways = !first
    ? [array, coupons]
    : ladder
      ? [short, array, coupons, ...boards]
      : [array, short, coupons, ...boards]
  return (
    <>
      {first && ladder && (
        <Text fontSize="17px" mb="3">
          {ladder}
        </Text>
      )}
      <Flex gap="2" wrap="wrap">
        {ways.map(({ as, name }, i) => (
          <Button
            key={as}
            look={i > 0 ? 'quiet' : first ? 'ember' : 'emberLine'}
            size="lg"
            loading={begin.isPending && begin.variables.begun_as === as}
            onClick={() => start(as)}
          >
            {name}
          </Button>
        ))}
      </Flex>
    </>
  )
}
