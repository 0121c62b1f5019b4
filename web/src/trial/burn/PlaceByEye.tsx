import { Grid, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { Button } from '../../shared/Button'
import { useShop } from '../../shared/ShopContext'
import { sayDone, sayFailed } from '../../shared/toast'
import { useBurn } from './useBurn'

interface PlaceByEyeProps {
  /** Somebody stands at the machine, with the right head on it. */
  there: boolean
  mounted: number | null
  /** Plans what is to be shown, where that is still to be done, and says which version of the plan it is. */
  planned: () => Promise<number>
  /** A dry run with the beam off, beside these. */
  onDryRun?: () => void
}

/** Where the plate will lie: shown by the machine before it burns, and counted from where the head stands. */
export function PlaceByEye({ there, mounted, planned, onDryRun }: PlaceByEyeProps) {
  const { page, actions } = useBurn()
  const { me, inventory } = useShop()
  const may = there && me.may_write
  const show = (outline: 'frame' | 'tight') =>
    actions.begin.mutate(async () =>
      answer(
        api.POST('/api/trials/{id}/live', {
          params: { path: { id: page.id } },
          body: { edit: await planned(), how: 'outline', outline, at_machine: there, mounted },
        }),
      ),
    )
  const zero = useMutation({
    mutationFn: async () =>
      answer(
        api.POST('/api/trials/{id}/zero-here', {
          params: { path: { id: page.id } },
          body: { edit: await planned(), at_machine: there, mounted },
        }),
      ),
    onSuccess: async () => {
      await actions.refresh()
      sayDone('Zero is where the head stands now.')
    },
    onError: sayFailed,
  })
  const head = inventory.heads.find((one) => one.id === page.head_id)
  const machine = inventory.machines.find((one) => one.id === head?.machine_id)
  return (
    <>
      <Grid templateColumns="1fr 1fr" gap="2" mt="2">
        <Button look="quiet" px="2" disabled={!may} onClick={() => show('frame')}>
          Show the outline
        </Button>
        <Button look="quiet" px="2" disabled={!may} onClick={() => show('tight')}>
          Outline, drawn tight
        </Button>
        {onDryRun && (
          <Button look="quiet" px="2" disabled={!may} onClick={onDryRun}>
            Dry run, beam off
          </Button>
        )}
        {machine?.facts.motion === 'gantry' && (
          <Button look="quiet" px="2" disabled={!may} loading={zero.isPending} onClick={() => zero.mutate()}>
            Zero where head is
          </Button>
        )}
      </Grid>
      {page.zero && (
        <Text fontSize="14px" color="ink2" mt="1.5">
          Machine zero: {page.zero}.
        </Text>
      )}
    </>
  )
}
