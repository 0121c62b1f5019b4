import { Flex } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../api/client'
import { trialKey, useForgetLists } from '../api/hooks'
import type { TrialPageData } from '../api/types'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'

const QUIET = { color: 'ink2', fontWeight: '500' } as const

/** What a trial is called, and whether it is put away: neither is part of its plan. */
export function TrialName({ page }: { page: TrialPageData }) {
  const { me } = useShop()
  const client = useQueryClient()
  const forget = useForgetLists()
  const [naming, setNaming] = useState<string | null>(null)
  const shelve = useMutation({
    mutationFn: (body: { name?: string; put_away?: boolean }) =>
      answer(api.PUT('/api/trials/{id}/shelf', { params: { path: { id: page.id } }, body })),
    onSuccess: async () => {
      setNaming(null)
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forget()
    },
    onError: sayFailed,
  })
  if (!me.may_write) return null
  const away = page.put_away_at !== null
  const put = (put_away: boolean) =>
    shelve.mutate(
      { put_away },
      {
        onSuccess: () =>
          sayDone(put_away ? 'Put away: it is found under Trials, Put away.' : 'Taken out again.', () =>
            put(!put_away),
          ),
      },
    )
  if (naming !== null)
    return (
      <form
        onSubmit={(event) => {
          event.preventDefault()
          shelve.mutate({ name: naming })
        }}
      >
        <Flex as="span" gap="2" align="center">
          <TextField
            label="Name of the trial"
            hideLabel
            value={naming}
            placeholder="what it is about"
            maxLength={80}
            onChange={(event) => setNaming(event.currentTarget.value)}
          />
          <Button type="submit" size="sm" loading={shelve.isPending}>
            Keep
          </Button>
          <Button look="link" size="sm" {...QUIET} onClick={() => setNaming(null)}>
            Cancel
          </Button>
        </Flex>
      </form>
    )
  return (
    <Flex as="span" gap="3" fontSize="14px">
      <Button look="link" size="sm" {...QUIET} onClick={() => setNaming(page.name)}>
        {page.name ? 'Rename' : 'Name it'}
      </Button>
      <Button asChild look="link" size="sm" {...QUIET}>
        <RouterLink to={`/print/plate/${page.id}`}>Print its label</RouterLink>
      </Button>
      <Button look="link" size="sm" {...QUIET} loading={shelve.isPending} onClick={() => put(!away)}>
        {away ? 'Take it out again' : 'Put it away'}
      </Button>
    </Flex>
  )
}
