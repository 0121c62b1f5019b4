import { Box, Flex, Grid, Link, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { ProblemError, answer, api } from '../api/client'
import { useForget } from '../api/stale'
import type { Member } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { SelectField, TextField } from '../shared/Fields'
import { Card } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { TwoVersions } from '../shared/TwoVersions'
import { useWhoChanged } from '../forms/useWhoChanged'
import { sayDone, sayFailed } from '../shared/toast'
import { differences } from '../forms/fields'

/** Who belongs to the shop; the keeper changes that in place. */
export function Members({ retired }: { retired: boolean }) {
  const { inventory, me } = useShop()
  const [adding, setAdding] = useState(false)
  return (
    <Box>
      <Grid templateColumns={{ base: '1fr', md: '1fr 1fr', xl: '1fr 1fr 1fr' }} gap="3" alignItems="start">
        {inventory.members
          .filter((one) => one.retired === retired)
          .map((member) => (
            <MemberCard key={member.id} member={member} />
          ))}
        {adding && (
          <Card p="4" borderColor="steel">
            <MemberForm member={null} onDone={() => setAdding(false)} />
          </Card>
        )}
      </Grid>
      <Box mt="3">
        {me.may_keep && !adding && !retired && <Button onClick={() => setAdding(true)}>Add a member</Button>}
        <AskSomebody least="keeper" to="add or change members" />
      </Box>
    </Box>
  )
}

function MemberCard({ member }: { member: Member }) {
  const { inventory, me } = useShop()
  const [editing, setEditing] = useState(false)
  const isShop = !inventory.shop?.demo
  return (
    <Card p="3" opacity={member.retired && !editing ? 0.75 : 1} borderColor={editing ? 'steel' : 'line'}>
      {editing ? (
        <MemberForm member={member} onDone={() => setEditing(false)} />
      ) : (
        <Flex justify="space-between" gap="2">
          <Box>
            <Text fontWeight="600">
              {member.name}
              {member.id === me.id && ' (you)'}
            </Text>
            <Text color="ink2">{member.role}</Text>
            {isShop && !member.can_sign_in && !member.retired && (
              <Text color="emberOnSoft" fontSize="14px">
                has no passphrase yet
              </Text>
            )}
          </Box>
          {me.may_keep && (
            <Button size="sm" onClick={() => setEditing(true)} aria-label={`Change ${member.name}`}>
              Change
            </Button>
          )}
        </Flex>
      )}
    </Card>
  )
}

type SaidOfMember = Pick<Member, 'edit' | 'name' | 'role' | 'retired'>

function MemberForm({ member, onDone }: { member: Member | null; onDone: () => void }) {
  const { inventory } = useShop()
  const forget = useForget()
  const [name, setName] = useState(member?.name ?? '')
  const [role, setRole] = useState<Member['role']>(member?.role ?? 'member')
  const [secret, setSecret] = useState('')
  const needsSecret = !inventory.shop?.demo
  const save = useMutation({
    mutationFn: async ({ edit, name, role, retired }: SaidOfMember) => {
      if (!member) return answer(api.POST('/api/members', { body: { name, role, secret: secret || null } }))
      if (name !== member.name || role !== member.role || retired !== member.retired) {
        await answer(
          api.PUT('/api/members/{id}', {
            params: { path: { id: member.id } },
            body: { edit, name, role, retired },
          }),
        )
      }
      if (secret)
        await answer(
          api.PUT('/api/members/{id}/secret', { params: { path: { id: member.id } }, body: { secret } }),
        )
      return undefined
    },
    onSuccess: async () => {
      await forget('member')
      sayDone(`${name} is kept.`)
      onDone()
    },
  })
  const signOut = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE('/api/members/{id}/sessions', { params: { path: { id } } })),
    onSuccess: () => sayDone(`${name} is signed out everywhere.`),
    onError: sayFailed,
  })
  const problem = save.error instanceof ProblemError ? save.error : null
  const errors = problem?.byPath()
  const who = useWhoChanged('member', member?.id, problem?.status === 409)
  if (member && problem?.status === 409 && problem.current) {
    const fields = [
      { key: 'name', label: 'Name' },
      { key: 'role', label: 'Role' },
      { key: 'retired', label: 'Gone' },
    ]
    const mine = { name, role, retired: save.variables?.retired ?? false }
    return (
      <TwoVersions
        what={member.name}
        rows={differences(fields, problem.current, mine)}
        onTheirs={onDone}
        who={who}
        onMine={(parts) => {
          const theirs = problem.current as unknown as SaidOfMember
          save.mutate({
            edit: theirs.edit,
            name: parts.has('name') ? name : theirs.name,
            role: parts.has('role') ? role : theirs.role,
            retired: parts.has('retired') ? mine.retired : theirs.retired,
          })
        }}
      />
    )
  }
  const submit = (retired: boolean) => save.mutate({ edit: member?.edit ?? 0, name, role, retired })
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        submit(member?.retired ?? false)
      }}
    >
      <Flex direction="column" gap="3">
        <TextField
          label="Name"
          value={name}
          error={errors?.get('name')}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <SelectField
          label="Role"
          value={role}
          options={inventory.roles.map(({ key, does }) => ({ value: key, label: `${key}: ${does}` }))}
          error={errors?.get('role')}
          onPick={setRole}
        />
        {needsSecret && (
          <TextField
            label={member?.can_sign_in ? 'New PIN or passphrase (empty: as it is)' : 'PIN or passphrase'}
            type="password"
            autoComplete="new-password"
            value={secret}
            error={errors?.get('secret')}
            hint="At least six characters; they can change it themselves."
            onChange={(event) => setSecret(event.currentTarget.value)}
          />
        )}
      </Flex>
      {problem && ![...(errors?.keys() ?? [])].some((path) => ['name', 'role', 'secret'].includes(path)) && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {problem.message}
        </Text>
      )}
      <Flex gap="2" mt="3" wrap="wrap">
        <Button type="submit" look="ember" loading={save.isPending}>
          Keep
        </Button>
        <Button onClick={onDone}>Cancel</Button>
        {member && (
          <>
            {needsSecret && <Button onClick={() => signOut.mutate(member.id)}>Sign out everywhere</Button>}
            <Button ml="auto" onClick={() => submit(!member.retired)}>
              {member.retired ? 'Take back' : 'Let go'}
            </Button>
          </>
        )}
      </Flex>
      {member?.retired && <RemoveForGood member={member} onDone={onDone} />}
    </form>
  )
}

/** Two clicks, since nothing brings it back. */
function RemoveForGood({ member, onDone }: { member: Member; onDone: () => void }) {
  const forget = useForget()
  const [sure, setSure] = useState(false)
  const gone = useMutation({
    mutationFn: () => answer(api.DELETE('/api/members/{id}', { params: { path: { id: member.id } } })),
    onSuccess: async () => {
      await forget('member')
      sayDone('What they did stays, done by somebody.')
      onDone()
    },
    onError: sayFailed,
  })
  return (
    <Box mt="3" pt="3" borderTopWidth="1px" borderColor="line">
      <Text color="ink2" fontSize="14.5px">
        Removed for good, {member.name} is “somebody” on all they did, and nothing brings the name back.
        Backups made before still hold it.{' '}
        <Link href={`/api/members/${member.id}/data`} download textDecoration="underline">
          What is kept of them
        </Link>
      </Text>
      <Flex gap="2" mt="2">
        {sure ? (
          <>
            <Button look="ember" loading={gone.isPending} onClick={() => gone.mutate()}>
              Remove {member.name}
            </Button>
            <Button onClick={() => setSure(false)}>Cancel</Button>
          </>
        ) : (
          <Button onClick={() => setSure(true)}>Remove for good</Button>
        )}
      </Flex>
    </Box>
  )
}
