import { Box, Flex, Text } from '@chakra-ui/react'
import { useInfiniteQuery } from '@tanstack/react-query'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../api/client'
import type { Change } from '../api/types'
import { Button } from '../shared/Button'
import { Card, Failure, Nothing, Waiting } from '../shared/Parts'
import { dayAndTime } from '../shared/words'

const A_PAGE = 50

function useLog() {
  return useInfiniteQuery({
    queryKey: ['changes'],
    initialPageParam: 0,
    queryFn: ({ pageParam, signal }) =>
      answer(
        api.GET('/api/changes', {
          params: { query: { most: A_PAGE, ...(pageParam && { before: pageParam }) } },
          signal,
        }),
      ),
    getNextPageParam: ({ changes }) => (changes.length < A_PAGE ? undefined : changes.at(-1)?.id),
  })
}

const PLACES: Partial<Record<Change['subject'], (id: number) => string>> = {
  trial: (id) => `/trials/${id}`,
  recipe: (id) => `/book/${id}`,
}

/** Who did what, newest first. */
export function Log() {
  const log = useLog()
  if (log.isError) return <Failure error={log.error} retry={() => void log.refetch()} />
  if (!log.data) return <Waiting what="the log" height="200px" />
  const lines = log.data.pages.flatMap((page) => page.changes)
  if (lines.length === 0) return <Nothing>Nothing was done yet.</Nothing>
  return (
    <Card p="4">
      <Box role="list" aria-label="Who did what">
        {lines.map((line) => {
          const place = PLACES[line.subject]?.(line.subject_id)
          return (
            <Flex
              key={line.id}
              role="listitem"
              gap="3"
              py="1"
              columnGap="4"
              wrap={{ base: 'wrap', sm: 'nowrap' }}
            >
              <Text color="ink2" minW="118px">
                {dayAndTime(line.at)}
              </Text>
              <Text>
                <strong>{line.by_name}</strong> {line.verb}{' '}
                {place ? (
                  <RouterLink to={place} style={{ textDecoration: 'underline' }}>
                    {line.title}
                  </RouterLink>
                ) : (
                  line.title
                )}
              </Text>
            </Flex>
          )
        })}
      </Box>
      {log.hasNextPage && (
        <Button mt="3" loading={log.isFetchingNextPage} onClick={() => void log.fetchNextPage()}>
          Earlier
        </Button>
      )}
    </Card>
  )
}
