import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { Link as RouterLink, useSearchParams } from 'react-router'
import { useTrials } from '../api/hooks'
import type { TrialCard } from '../api/types'
import { MiniPlate } from '../plate/MiniPlate'
import { SelectField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { day, trialName } from '../shared/words'

/** Where a trial stands, as the thing to do next. */
export function standingWords(trial: Pick<TrialCard, 'stage' | 'scored' | 'patches'>): string {
  switch (trial.stage) {
    case 'plan':
      return 'being planned'
    case 'burn':
      return 'ready to burn'
    case 'read':
      return `${trial.scored} of ${trial.patches} read`
    case 'decide':
      return 'decide'
    case 'kept':
      return 'in the book'
  }
}

/** The plates as pictures on a wall, newest first. */
export function TrialsPage() {
  const { inventory } = useShop()
  const [search, setSearch] = useSearchParams()
  const head = Number(search.get('head')) || null
  const material = Number(search.get('material')) || null
  const trials = useTrials({ head, material })
  const filter = (key: string, value: string) => {
    const next = new URLSearchParams(search)
    if (value) next.set(key, value)
    else next.delete(key)
    setSearch(next, { replace: true })
  }
  return (
    <Box>
      <Flex justify="space-between" wrap="wrap" gap="3" align="flex-start">
        <PageTitle under="Every plate of the shop, the newest first">Trials</PageTitle>
        <Flex gap="3">
          <SelectField
            label="Machine"
            hideLabel
            value={String(head ?? '')}
            onPick={(value) => filter('head', value)}
            options={[
              { value: '', label: 'every machine' },
              ...inventory.heads.map((one) => ({ value: String(one.id), label: one.title })),
            ]}
          />
          <SelectField
            label="Material"
            hideLabel
            value={String(material ?? '')}
            onPick={(value) => filter('material', value)}
            options={[
              { value: '', label: 'every material' },
              ...inventory.materials.map((one) => ({ value: String(one.id), label: one.title })),
            ]}
          />
        </Flex>
      </Flex>
      {trials.isError && <Failure error={trials.error} retry={() => void trials.refetch()} />}
      {trials.isPending && <Waiting what="the trials" height="240px" />}
      {trials.data?.length === 0 && (
        <Nothing>
          No plates {head || material ? 'of these' : 'yet'}. Ask for a setting, and plan an array around the
          answer.
        </Nothing>
      )}
      <SimpleGrid minChildWidth="220px" gap="4" role="list" aria-label="Trials">
        {trials.data?.map((trial) => (
          <TrialTile key={trial.id} trial={trial} />
        ))}
      </SimpleGrid>
      <KeysHelp hints={[]} />
    </Box>
  )
}

function TrialTile({ trial }: { trial: TrialCard }) {
  const name = trialName(trial.number)
  return (
    <Card p="3" role="listitem" _hover={{ borderColor: 'control' }} maxW="320px">
      <RouterLink to={`/trials/${trial.id}`} aria-label={`${name}, ${trial.material}`}>
        <Box height="170px" mb="2">
          {trial.picture && <MiniPlate picture={trial.picture} label={`Plate ${name}`} />}
        </Box>
        <Flex justify="space-between" align="baseline">
          <Text fontWeight="700">{name}</Text>
          <Text color={trial.stage === 'kept' ? 'moss' : 'emberOnSoft'} fontWeight="600" fontSize="15px">
            {standingWords(trial)}
          </Text>
        </Flex>
        <Text>{trial.material}</Text>
        <Text color="ink2" fontSize="14.5px">
          {trial.process_name.toLowerCase()} on {trial.head} · {day(trial.burned_at ?? trial.at)}
        </Text>
      </RouterLink>
    </Card>
  )
}
