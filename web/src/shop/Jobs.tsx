import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import type { Job } from '../api/types'
import { Button } from '../shared/Button'
import { Card } from '../shared/Parts'
import { sayFailed } from '../shared/toast'
import { counted, dayAndTime } from '../shared/words'

const WHAT: Record<Job['kind'], string> = {
  bring_in: 'a photo is read',
  read_again: 'a photo is read again',
  outline: 'the outline of a piece is looked for',
  read: 'a photo is read',
  lay: 'a plate is laid on its photo',
  picture: 'a picture is made',
  file: 'a file is written',
}

const goesOn = (job: Job) => job.state === 'waiting' || job.state === 'running'

/** What is worked on beside the pages, and what has not come to its end lately; nothing where all is well. */
export function Jobs() {
  const client = useQueryClient()
  const jobs = useQuery({
    queryKey: ['jobs'],
    queryFn: ({ signal }) => answer(api.GET('/api/jobs', { signal })).then((answer) => answer.jobs),
    refetchInterval: ({ state }) => (state.data?.some(goesOn) ? 2000 : false),
  })
  const giveUp = useMutation({
    mutationFn: (job: number) => answer(api.DELETE('/api/jobs/{id}', { params: { path: { id: job } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['jobs'] }),
    onError: sayFailed,
  })
  const shown = jobs.data?.filter((job) => job.state !== 'done' && job.state !== 'cancelled') ?? []
  if (shown.length === 0) return null
  return (
    <Card p="4" mb="3">
      <Box role="list" aria-label="At work">
        {shown.map((job) => (
          <Flex
            key={job.id}
            role="listitem"
            gap="4"
            py="1"
            align="center"
            wrap={{ base: 'wrap', sm: 'nowrap' }}
          >
            <Text color="ink2" minW="118px">
              {dayAndTime(job.at)}
            </Text>
            <Text flex="1">
              <strong>{job.by_name}</strong>: {WHAT[job.kind]}
              {goesOn(job) ? `, ${standing(job)}` : `. ${job.sentence}`}
            </Text>
            {goesOn(job) && (
              <Button size="sm" onClick={() => giveUp.mutate(job.id)}>
                Cancel
              </Button>
            )}
          </Flex>
        ))}
      </Box>
    </Card>
  )
}

function standing(job: Job): string {
  if (job.state === 'running') return `${Math.round(100 * job.progress)} %`
  return `${counted(job.before, 'thing')} before it`
}
