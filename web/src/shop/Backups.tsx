import { Text } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { Card, Failure, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { dayAndTime } from '../shared/words'

/** `20261123T104500Z` as a moment. */
export const backupMoment = (stamp: string) =>
  stamp.replace(/^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/, '$1-$2-$3T$4:$5:$6Z')

/** When the shop was last backed up; the keeper can do it now. */
export function Backups() {
  const { inventory, me } = useShop()
  if (inventory.shop?.demo) return <Text color="ink2">The demo shop is not backed up: it is made again.</Text>
  if (!me.may_keep) return <AskSomebody least="keeper" to="look after backups" />
  return <BackupCard />
}

function BackupCard() {
  const client = useQueryClient()
  const state = useQuery({
    queryKey: ['backup'],
    queryFn: ({ signal }) => answer(api.GET('/api/backup', { signal })),
  })
  const now = useMutation({
    mutationFn: () => answer(api.POST('/api/backup', {})),
    onSuccess: (fresh) => {
      client.setQueryData(['backup'], fresh)
      if (!fresh.warning) sayDone('The whole shop is backed up.')
    },
    onError: sayFailed,
  })
  if (state.isError) return <Failure error={state.error} retry={() => void state.refetch()} />
  if (!state.data) return <Waiting what="the backups" />
  const { folder, latest, every_hours: every, keep } = state.data
  if (folder === null) {
    return (
      <Card p="4">
        <Text>No backups are scheduled. Start the server without --backup-every 0, or run:</Text>
        <Text fontFamily="mono">rezept backup FOLDER --data DATA</Text>
      </Card>
    )
  }
  return (
    <Card p="4" maxW="640px">
      <Text fontSize="20px" fontWeight="600">
        {latest ? `Last backed up ${dayAndTime(backupMoment(latest))}` : 'Not backed up yet'}
      </Text>
      <Text color="ink2" mt="1">
        Every {every} hours into {folder}; the newest {keep} stay. Copy them to another disk now and then: a
        backup beside the shop burns with it.
      </Text>
      {state.data.warning && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {state.data.warning}
        </Text>
      )}
      <Button mt="3" look={latest ? 'quiet' : 'ember'} loading={now.isPending} onClick={() => now.mutate()}>
        Back up now
      </Button>
    </Card>
  )
}
