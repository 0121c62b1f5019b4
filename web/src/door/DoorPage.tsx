import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import type { FormEvent, ReactNode } from 'react'
import { ProblemError, answer, api } from '../api/client'
import type { Door } from '../api/types'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { Card } from '../shared/Parts'

/** Before anybody is in: founding the shop on its first day, signing in on every other. */
export function DoorPage({ door }: { door: Door }) {
  return door.state === 'empty' ? <FirstRun hereOnly={door.here_only} /> : <SignIn shop={door.shop ?? ''} />
}

/** Sends what was typed; whoever comes in gets a fresh app, without a trace of who was here before. */
/** Comes in by one of the ways there are; then everything is asked anew. */
function useComingIn<T>(come: (body: T) => Promise<unknown>) {
  const client = useQueryClient()
  return useMutation({ mutationFn: come, onSuccess: () => client.resetQueries() })
}

const found = (body: { name: string; tag: string; keeper: string; secret: string }) =>
  answer(api.POST('/api/door/found', { body }))
const signIn = (body: { name: string; secret: string }) => answer(api.POST('/api/session', { body }))

function Frame({ title, under, children }: { title: string; under: string; children: ReactNode }) {
  return (
    <Flex as="main" minH="100vh" align="center" justify="center" p="4">
      <Card p={{ base: '5', md: '8' }} width="100%" maxW="460px">
        <Text fontWeight="700" fontSize="23px" letterSpacing="-0.01em">
          Reze
          <Text as="span" color="ember">
            p
          </Text>
          t
        </Text>
        <Text as="h1" fontSize="27px" fontWeight="600" lineHeight="1.2" mt="4">
          {title}
        </Text>
        <Text color="ink2" mt="1" mb="5">
          {under}
        </Text>
        {children}
      </Card>
    </Flex>
  )
}

const sentences = (error: unknown) =>
  error instanceof ProblemError ? error.byPath() : new Map<string, string>()

function Unplaced({ error, known }: { error: unknown; known: string[] }) {
  if (!(error instanceof Error) || known.some((path) => sentences(error).has(path))) return null
  return (
    <Text role="alert" color="emberOnSoft" mt="3">
      {error.message}
    </Text>
  )
}

function SignIn({ shop }: { shop: string }) {
  const [name, setName] = useState('')
  const [secret, setSecret] = useState('')
  const come = useComingIn(signIn)
  const submit = (event: FormEvent) => {
    event.preventDefault()
    come.mutate({ name, secret })
  }
  return (
    <Frame title={shop} under="Sign in with the name the shop knows you by.">
      <form onSubmit={submit}>
        <Flex direction="column" gap="3">
          <TextField
            label="Name"
            size="lg"
            autoComplete="username"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <TextField
            label="PIN or passphrase"
            type="password"
            size="lg"
            autoComplete="current-password"
            value={secret}
            error={sentences(come.error).get('secret')}
            onChange={(event) => setSecret(event.currentTarget.value)}
          />
          <Button
            type="submit"
            look="ember"
            size="lg"
            mt="2"
            loading={come.isPending}
            disabled={!name.trim() || !secret}
          >
            Sign in
          </Button>
        </Flex>
        <Unplaced error={come.error} known={['secret']} />
      </form>
      <Text fontSize="14.5px" color="ink2" mt="5">
        Forgotten, or not a member yet? Ask the shop’s keeper: they add people and give out new passphrases.
      </Text>
    </Frame>
  )
}

const TAG_LETTERS = '0123456789ABCDEFGHJKLMNPQRSTUVWXYZ'

/** Four letters that say whose plate it is, drawn anew for each shop. */
const randomTag = () =>
  [...crypto.getRandomValues(new Uint8Array(4))]
    .map((byte) => TAG_LETTERS[byte % TAG_LETTERS.length])
    .join('')

function FirstRun({ hereOnly }: { hereOnly: boolean }) {
  const [form, setForm] = useState(() => ({ name: '', tag: randomTag(), keeper: '', secret: '', again: '' }))
  const come = useComingIn(found)
  const errors = sentences(come.error)
  const differs = form.again !== '' && form.again !== form.secret
  const field = (key: keyof typeof form) => ({
    value: form[key],
    error: errors.get(key),
    onChange: (event: FormEvent<HTMLInputElement>) => {
      const value = event.currentTarget.value
      setForm((before) => ({ ...before, [key]: value }))
    },
  })
  if (!hereOnly) {
    return (
      <Frame title="No shop here yet" under="A shop is founded at its own machine, not over the network.">
        {null}
      </Frame>
    )
  }
  const ready = form.name.trim() && form.keeper.trim() && form.secret && form.again === form.secret
  return (
    <Frame
      title="Found your shop"
      under="You become its keeper: you add people, look after backups, and can do everything else, too."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault()
          come.mutate({ name: form.name, tag: form.tag, keeper: form.keeper, secret: form.secret })
        }}
      >
        <Flex direction="column" gap="3">
          <TextField label="What the shop is called" {...field('name')} />
          <TextField label="Your name" autoComplete="username" {...field('keeper')} />
          <TextField
            label="Your PIN or passphrase"
            type="password"
            autoComplete="new-password"
            hint="At least six characters. It cannot be read back, not even by you."
            {...field('secret')}
          />
          <TextField
            label="Once more"
            type="password"
            autoComplete="new-password"
            {...field('again')}
            error={differs ? 'The two are not the same.' : undefined}
          />
          <Box maxW="220px">
            <TextField
              label="Tag"
              hint="Four characters, first in every plate’s code."
              {...field('tag')}
              onChange={(event) => {
                const tag = event.currentTarget.value.toUpperCase()
                setForm((before) => ({ ...before, tag }))
              }}
            />
          </Box>
          <Button type="submit" look="ember" size="lg" mt="2" loading={come.isPending} disabled={!ready}>
            Found the shop
          </Button>
        </Flex>
        <Unplaced error={come.error} known={['name', 'keeper', 'secret', 'tag']} />
      </form>
    </Frame>
  )
}
