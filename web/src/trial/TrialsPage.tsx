import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import { useTrialWall } from '../api/hooks'
import type { TrialCard } from '../api/types'
import { MiniPlate } from '../plate/MiniPlate'
import { Button } from '../shared/Button'
import { EquipmentFilter, useFilter } from '../shared/EquipmentFilter'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { day, trialName, standingWords } from '../shared/words'

/** The plates as pictures on a wall, newest first. */
export function TrialsPage() {
  const filter = useFilter()
  const { head, material } = filter
  const wall = useTrialWall({ head, material })
  const trials = wall.data?.pages.flat()
  return (
    <Box>
      <Flex justify="space-between" wrap="wrap" gap="3" align="flex-start">
        <PageTitle under="Every plate of the shop, the newest first">Trials</PageTitle>
        <Flex gap="3">
          <EquipmentFilter filter={filter} />
        </Flex>
      </Flex>
      {wall.isError && <Failure error={wall.error} retry={() => void wall.refetch()} />}
      {wall.isPending && <Waiting what="the trials" height="240px" />}
      {trials?.length === 0 && (
        <Nothing>
          No plates {head || material ? 'of these' : 'yet'}. Ask for a setting, and plan an array around the
          answer.
        </Nothing>
      )}
      <SimpleGrid minChildWidth="220px" gap="4" role="list" aria-label="Trials">
        {trials?.map((trial) => (
          <TrialTile key={trial.id} trial={trial} />
        ))}
      </SimpleGrid>
      {wall.hasNextPage && (
        <Button mt="4" loading={wall.isFetchingNextPage} onClick={() => void wall.fetchNextPage()}>
          Show older ones
        </Button>
      )}
      <KeysHelp hints={[]} />
    </Box>
  )
}

function TrialTile({ trial }: { trial: TrialCard }) {
  const name = trialName(trial.number)
  return (
    <Card p="3" role="listitem" _hover={{ borderColor: 'control' }} maxW="320px">
      <RouterLink to={`/trials/${trial.id}`}>
        <Box height="170px" mb="2">
          {trial.picture && <MiniPlate picture={trial.picture} label="" />}
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
