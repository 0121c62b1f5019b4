import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ProblemError, answer, api } from '../api/client'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, PageTitle, Section, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { dayAndTime } from '../shared/words'
import { device } from './device'

const MAY: Record<string, string> = {
  guest: 'You may look at everything.',
  member: 'You may plan, burn, read and keep recipes, and add lots and pieces.',
  technician: 'You may do all that members may, prove recipes, and look after machines and materials.',
  keeper: 'You may do everything, people and backups included.',
}

/** Who I am, what I may do, where I am signed in. */
export function MePage() {
  const { inventory, me } = useShop()
  return (
    <Box maxW="640px">
      <PageTitle under={me.role}>{me.name}</PageTitle>
      <Card p="4" mb="4">
        <Section title="What I may do">
          <Text>{MAY[me.role]}</Text>
          <AskSomebody least="member" to="plan, burn and keep" />
          <AskSomebody least="technician" to="prove a recipe" />
          <AskSomebody least="keeper" to="add members" />
        </Section>
      </Card>
      {inventory.shop?.demo ? (
        <Text color="ink2">
          In the demo nobody signs in: pick who you are in the top bar. In a shop of your own everybody has a
          name and a passphrase.
        </Text>
      ) : (
        <>
          <Passphrase />
          <Devices />
          <KeptOfMe />
          <SignOut />
        </>
      )}
      <KeysHelp hints={[]} />
    </Box>
  )
}

function Passphrase() {
  const [old, setOld] = useState('')
  const [fresh, setFresh] = useState('')
  const change = useMutation({
    mutationFn: () => answer(api.PUT('/api/me/secret', { body: { old, new: fresh } })),
    onSuccess: () => {
      setOld('')
      setFresh('')
      sayDone('Your passphrase is changed; you are signed out on every other device.')
    },
  })
  const errors = change.error instanceof ProblemError ? change.error.byPath() : null
  const placed = errors?.has('old') || errors?.has('new') || errors?.has('secret')
  return (
    <Card p="4" mb="4">
      <Section title="My passphrase">
        <form
          onSubmit={(event) => {
            event.preventDefault()
            change.mutate()
          }}
        >
          <Flex gap="3" wrap="wrap" align="flex-start">
            <TextField
              label="The one so far"
              type="password"
              autoComplete="current-password"
              value={old}
              error={errors?.get('old') ?? errors?.get('secret')}
              onChange={(event) => setOld(event.currentTarget.value)}
            />
            <TextField
              label="The new one"
              type="password"
              autoComplete="new-password"
              value={fresh}
              error={errors?.get('new')}
              onChange={(event) => setFresh(event.currentTarget.value)}
            />
            <Button type="submit" mt="24px" disabled={!old || !fresh} loading={change.isPending}>
              Change it
            </Button>
          </Flex>
          {change.error && !placed && (
            <Text role="alert" color="emberOnSoft" mt="2">
              {change.error.message}
            </Text>
          )}
        </form>
      </Section>
    </Card>
  )
}

function Devices() {
  const client = useQueryClient()
  const sessions = useQuery({
    queryKey: ['sessions'],
    queryFn: ({ signal }) => answer(api.GET('/api/me/sessions', { signal })),
  })
  const end = useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/me/sessions/{id}', { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ['sessions'] }),
    onError: sayFailed,
  })
  if (sessions.isError) return <Failure error={sessions.error} retry={() => void sessions.refetch()} />
  if (!sessions.data) return <Waiting what="my devices" />
  return (
    <Card p="4" mb="4">
      <Section title="Where I am signed in">
        {sessions.data.sessions.map((row) => (
          <Flex key={row.id} gap="3" align="center" py="1.5" borderTopWidth="1px" borderColor="line">
            <Box flex="1">
              <Text fontWeight={row.current ? '600' : '400'}>
                {device(row.device)}
                {row.current && ', here'}
              </Text>
              <Text color="ink2" fontSize="14px">
                since {dayAndTime(row.started_at)}, last used {dayAndTime(row.seen_at)}
              </Text>
            </Box>
            {!row.current && (
              <Button size="sm" onClick={() => end.mutate(row.id)}>
                Sign out
              </Button>
            )}
          </Flex>
        ))}
        <Text color="ink2" fontSize="14px" mt="2">
          A device that is not used for seven days is signed out, and every device after thirty.
        </Text>
      </Section>
    </Card>
  )
}

function KeptOfMe() {
  return (
    <Card p="4" mb="4">
      <Section title="What is kept of me">
        <Text color="ink2" mb="3">
          My name and role, where I sign in from, and everything I did here. Only I and the keeper can see it
          as a whole; the keeper can remove me for good.
        </Text>
        <Button asChild>
          <a href="/api/me/data" download>
            Get all of it as a file
          </a>
        </Button>
      </Section>
    </Card>
  )
}

function SignOut() {
  const out = useMutation({
    mutationFn: () => answer(api.DELETE('/api/session')),
    // A fresh page keeps nothing of what was shown.
    onSuccess: () => location.assign('/'),
    onError: sayFailed,
  })
  return (
    <Button size="lg" loading={out.isPending} onClick={() => out.mutate()}>
      Sign out here
    </Button>
  )
}
