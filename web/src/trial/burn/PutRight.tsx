import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError, answer, api } from '../../api/client'
import type { Burn } from '../../api/types'
import { Button } from '../../shared/Button'
import { useShop } from '../../shared/ShopContext'
import { sayDone, sayFailed } from '../../shared/toast'
import { Conditions, noted, unplaced, useConditions } from './Conditions'
import { useBurn } from './useBurn'

interface PutRightProps {
  burn: Burn
}

/** What was noted of a burn put right, or taken back: by who noted it or a technician, while nothing is kept from it. */
export function PutRight({ burn }: PutRightProps) {
  const { page } = useBurn()
  const { me } = useShop()
  const [open, setOpen] = useState(false)
  const mine = burn.by_member === me.id || me.may_prove
  const kept = page.recipes.some((recipe) => recipe.burn_id === burn.id)
  if (!me.may_write || !mine || kept) return null
  if (!open)
    return (
      <Button look="link" mt="2" onClick={() => setOpen(true)}>
        Something noted wrong?
      </Button>
    )
  return <PutRightForm burn={burn} onClose={() => setOpen(false)} />
}

function PutRightForm({ burn, onClose }: PutRightProps & { onClose: () => void }) {
  const { page, actions } = useBurn()
  const navigate = useNavigate()
  const conditions = useConditions(page, noted(burn))
  const close = () => {
    conditions.forget()
    onClose()
  }
  const change = useMutation({
    mutationFn: () =>
      answer(api.PUT('/api/burns/{id}', { params: { path: { id: burn.id } }, body: conditions.form })),
    onSuccess: async () => {
      close()
      await actions.refresh()
    },
  })
  const takeBack = useMutation({
    mutationFn: () => answer(api.DELETE('/api/burns/{id}', { params: { path: { id: burn.id } } })),
    onSuccess: async () => {
      close()
      sayDone('The burn is taken back; its readings rest with it.')
      await navigate(`/trials/${page.id}/burn`, { replace: true })
      await actions.refresh()
    },
    onError: sayFailed,
  })
  const errors = change.error instanceof ProblemError ? change.error.byPath() : new Map<string, string>()
  const sentence = unplaced(change.error, errors, conditions.form)
  const live = page.runs.some((run) => run.via === 'link')
  return (
    <Box mt="3" pt="3" borderTopWidth="1px" borderColor="line">
      <Conditions {...conditions} errors={errors} />
      {sentence && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {sentence}
        </Text>
      )}
      <Flex gap="2" mt="3" wrap="wrap">
        <Button look="ember" loading={change.isPending} onClick={() => change.mutate()}>
          Put it right
        </Button>
        {!live && (
          <Button look="quiet" loading={takeBack.isPending} onClick={() => takeBack.mutate()}>
            It was never burned
          </Button>
        )}
        <Button look="link" onClick={close}>
          Cancel
        </Button>
      </Flex>
      <Text fontSize="14px" color="ink2" mt="2">
        {live
          ? 'It went over the live link, so it did happen; how can be put right.'
          : 'Taken back, its readings and photos are not shown any more; the log keeps who did it.'}
      </Text>
    </Box>
  )
}
