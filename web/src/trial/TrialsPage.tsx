import { Box, Flex, Image, SimpleGrid, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import { useTrialWall } from '../api/hooks'
import { flatUrl } from '../api/photos'
import type { TrialCard } from '../api/types'
import { MiniPlate } from '../plate/MiniPlate'
import { Button } from '../shared/Button'
import { EquipmentFilter, useFilter } from '../shared/EquipmentFilter'
import { Choice, TextField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { day, trialName, standingWords } from '../shared/words'

/** The plates as pictures on a wall, newest first. */
export function TrialsPage() {
  const filter = useFilter()
  const { head, material, text } = filter
  const shelf = SHELVES.find((one) => one.value === filter.view)?.value ?? 'plates'
  const wall = useTrialWall({ head, material, text, shelf })
  const trials = wall.data?.pages.flat()
  return (
    <Box>
      <Flex justify="space-between" wrap="wrap" gap="3" align="flex-start">
        <PageTitle under="Every plate of the shop, the newest first">Trials</PageTitle>
        <Choice
          label="Shelf"
          value={shelf}
          onPick={(value) => filter.set('view', value === 'plates' ? '' : value)}
          options={SHELVES}
        />
      </Flex>
      <Flex gap="3" wrap="wrap" mb="4">
        <Box flex="1" minW="220px" maxW="420px">
          <TextField
            label="Find a trial"
            hideLabel
            placeholder="name, T-014, material, machine, who"
            value={text}
            onChange={(event) => filter.set('text', event.currentTarget.value)}
          />
        </Box>
        <EquipmentFilter filter={filter} />
      </Flex>
      {wall.isError && <Failure error={wall.error} retry={() => void wall.refetch()} />}
      {wall.isPending && <Waiting what="the trials" height="240px" />}
      {trials?.length === 0 && (
        <Nothing>
          {head || material || text
            ? 'Nothing here matches. Take a word away, or look on another shelf.'
            : NOTHING[shelf]}
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

const SHELVES = [
  { value: 'plates', label: 'Plates' },
  { value: 'drafts', label: 'Drafts' },
  { value: 'away', label: 'Put away' },
] as const

const NOTHING: Record<(typeof SHELVES)[number]['value'], string> = {
  plates: 'No plates yet. Ask for a setting, and plan an array around the answer.',
  drafts: 'No plan is being drawn up.',
  away: 'Nothing is put away.',
}

function TrialTile({ trial }: { trial: TrialCard }) {
  const name = trialName(trial.number)
  return (
    <Card p="3" role="listitem" _hover={{ borderColor: 'control' }} maxW="320px">
      <RouterLink to={`/trials/${trial.id}`}>
        <Box height="170px" mb="2" position="relative">
          {trial.photo?.laid ? (
            <Image
              src={flatUrl(trial.photo)}
              alt=""
              loading="lazy"
              width="100%"
              height="100%"
              objectFit="contain"
              borderRadius="control"
            />
          ) : (
            trial.picture && <MiniPlate picture={trial.picture} label="" />
          )}
          {trial.burning && (
            <Text
              position="absolute"
              bottom="1"
              left="1"
              px="2"
              bg="ember"
              color="card"
              fontWeight="600"
              borderRadius="6px"
            >
              burns now
            </Text>
          )}
        </Box>
        <Flex justify="space-between" align="baseline" gap="2">
          <Text fontWeight="700" minW="0" truncate>
            {name}
            {trial.name && ` ${trial.name}`}
          </Text>
          <Text
            color={trial.stage === 'kept' ? 'moss' : 'emberOnSoft'}
            fontWeight="600"
            fontSize="15px"
            whiteSpace="nowrap"
          >
            {standingWords(trial)}
          </Text>
        </Flex>
        {trial.photo && !trial.photo.laid && (
          <Text color="emberOnSoft" fontSize="14px">
            its photo is not laid yet
          </Text>
        )}
        <Text>{trial.material}</Text>
        <Text color="ink2" fontSize="14.5px">
          {trial.process_name.toLowerCase()} on {trial.head} · {day(trial.burned_at ?? trial.at)}
        </Text>
      </RouterLink>
    </Card>
  )
}
