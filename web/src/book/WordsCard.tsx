import { Box, Flex, Grid, Link, Text } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { ProblemError, whoOf } from '../api/client'
import type { RecipeLink, RecipePageData } from '../api/types'
import { NoteField } from '../forms/NoteField'
import { differences } from '../forms/fields'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { Markdown } from '../shared/Markdown'
import { Card, Section } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { useOpenForm, useTabState } from '../shared/useTabState'
import { TwoVersions } from '../shared/TwoVersions'
import { useChangeRecipe } from './useChangeRecipe'
import { SAID } from './versions'

interface Words {
  purpose: string
  note: string
  conditions: string
  supplier_code: string
  pinned: string
  good_enough: string
  links: string
}

/** Links as typed: one a line, the address and then what it is. */
export function readLinks(text: string): RecipeLink[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean)
    .map((line) => {
      const [url = '', ...title] = line.split(/\s+/)
      return { url, title: title.join(' ') }
    })
}

const writtenLinks = (links: RecipeLink[]) =>
  links.map((one) => `${one.url} ${one.title ?? ''}`.trim()).join('\n')

const wordsOf = (page: RecipePageData): Words => ({
  purpose: page.purpose,
  note: page.note,
  conditions: page.conditions,
  supplier_code: page.supplier_code,
  pinned: page.pinned,
  good_enough: page.good_enough,
  links: writtenLinks(page.links),
})

/** What the book says beside the numbers, edited in place. */
export function WordsCard({ page }: { page: RecipePageData }) {
  const { me } = useShop()
  const [editing, setEditing] = useOpenForm(`recipe.${page.id}`)
  return (
    <Card p="4" borderColor={editing ? 'steel' : 'line'}>
      <Section title="Beside the numbers">
        {editing ? <WordsForm page={page} onClose={() => setEditing(false)} /> : <WordsShown page={page} />}
        {!editing && me.may_write && (
          <Button size="sm" mt="3" onClick={() => setEditing(true)}>
            Change the words
          </Button>
        )}
        <AskSomebody least="member" to="change it" />
      </Section>
    </Card>
  )
}

function WordsShown({ page }: { page: RecipePageData }) {
  const rows = [
    { name: 'For', text: page.purpose },
    { name: 'Conditions', text: page.conditions },
    { name: 'Supplier’s code', text: page.supplier_code },
  ].filter((row) => row.text)
  return (
    <Box>
      {page.note && (
        <Box mb="2">
          <Markdown text={page.note} />
        </Box>
      )}
      <Grid templateColumns="120px 1fr" rowGap="1">
        {rows.map((row) => (
          <Box key={row.name} display="contents">
            <Text color="ink2">{row.name}</Text>
            <Text whiteSpace="pre-wrap">{row.text}</Text>
          </Box>
        ))}
      </Grid>
      {page.links.map((link) => (
        <Link
          key={link.url}
          href={link.url}
          target="_blank"
          rel="noopener noreferrer nofollow"
          color="steel"
          textDecoration="underline"
          display="block"
          wordBreak="break-all"
        >
          {link.title || link.url}
        </Link>
      ))}
      {rows.length === 0 && !page.note && page.links.length === 0 && <Text color="ink2">Nothing yet.</Text>}
    </Box>
  )
}

function WordsForm({ page, onClose }: { page: RecipePageData; onClose: () => void }) {
  const client = useQueryClient()
  // The version one began with: what others do meanwhile must not slip in unseen.
  const [form, setForm, forgetForm] = useTabState(`recipe.${page.id}`, () => {
    const words = wordsOf(page)
    return { edit: page.edit, began: words, words }
  })
  const { edit: beganAt, began, words } = form
  const onDone = () => {
    forgetForm()
    onClose()
  }
  const change = useChangeRecipe(page)
  const problem = change.error instanceof ProblemError ? change.error : null
  const errors = problem?.byPath()
  const linkError = [...(errors ?? [])].find(([path]) => path.startsWith('links'))?.[1]
  const set = (key: keyof Words) => (value: string) =>
    setForm((before) => ({ ...before, words: { ...before.words, [key]: value } }))
  const isTouched = (key: string) => words[key as keyof Words] !== began[key as keyof Words]
  const send = (edit: number, parts?: ReadonlySet<string>) => {
    const { links, ...rest } = words
    const mine = (key: string) => isTouched(key) && (parts?.has(key) ?? true)
    const touched = Object.fromEntries(Object.entries(rest).filter(([key]) => mine(key)))
    const changed = { ...touched, ...(mine('links') && { links: readLinks(links) }) }
    if (Object.keys(changed).length === 0) onDone()
    else change.mutate({ ...changed, edit }, { onSuccess: onDone })
  }
  if (problem?.status === 409 && problem.current) {
    const mine = { ...problem.current, ...words, links: readLinks(words.links) }
    const current = problem.current
    return (
      <TwoVersions
        what="this recipe"
        rows={differences(
          SAID.filter((one) => one.key in words && isTouched(one.key)),
          current,
          mine,
        )}
        onTheirs={() => {
          void client.invalidateQueries({ queryKey: ['recipe', page.id] })
          onDone()
        }}
        who={whoOf(current)}
        onMine={(parts) => send(Number(current.edit), parts)}
      />
    )
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault()
        send(beganAt)
      }}
    >
      <Flex direction="column" gap="3">
        <TextField
          label="For what"
          value={words.purpose}
          error={errors?.get('purpose')}
          onChange={(event) => set('purpose')(event.currentTarget.value)}
        />
        <TextField
          label="To be read before it is burned, one line"
          value={words.pinned}
          error={errors?.get('pinned')}
          onChange={(event) => set('pinned')(event.currentTarget.value)}
        />
        <TextField
          label="Good enough, up to where"
          value={words.good_enough}
          error={errors?.get('good_enough')}
          onChange={(event) => set('good_enough')(event.currentTarget.value)}
        />
        <NoteField
          label="Note"
          hint="Markdown: **bold**, lists with -, links as [words](https://…)"
          value={words.note}
          error={errors?.get('note')}
          onChange={set('note')}
        />
        <NoteField
          label="Conditions"
          hint="How it was held down, masked, cleaned"
          value={words.conditions}
          error={errors?.get('conditions')}
          onChange={set('conditions')}
        />
        <TextField
          label="Supplier’s code"
          value={words.supplier_code}
          error={errors?.get('supplier_code')}
          onChange={(event) => set('supplier_code')(event.currentTarget.value)}
        />
        <NoteField
          label="Links, one a line"
          hint="https://… and then what it is"
          value={words.links}
          error={linkError}
          onChange={set('links')}
        />
      </Flex>
      {problem && errors?.size === 0 && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {problem.message}
        </Text>
      )}
      <Flex gap="2" mt="3">
        <Button type="submit" look="ember" loading={change.isPending}>
          Keep
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </Flex>
    </form>
  )
}
