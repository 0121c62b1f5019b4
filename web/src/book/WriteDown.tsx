import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { ProblemError, answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { Inventory, ProcessKey, WrittenAs } from '../api/types'
import { NoteField } from '../forms/NoteField'
import { Button } from '../shared/Button'
import { SelectField, TextField } from '../shared/Fields'
import { Card } from '../shared/Parts'
import { useSettingsOn, useShop } from '../shared/ShopContext'
import { useTabState } from '../shared/useTabState'
import { ALWAYS_SHOWN, capital } from '../shared/words'

const NO_ERRORS: ReadonlyMap<string, string> = new Map()
interface Written {
  process: ProcessKey
  material: number
  head: number
  standing: WrittenAs
  settings: Record<string, string>
  words: { purpose: string; note: string; source: string }
}

const begun = (process: ProcessKey, { materials, heads }: Inventory): Written => ({
  process,
  material: materials.find((one) => !one.retired && one.processes.includes(process))?.id ?? 0,
  head: heads.find((one) => !one.retired)?.id ?? 0,
  standing: 'heard',
  settings: {},
  words: { purpose: '', note: '', source: '' },
})

/** A setting from elsewhere, typed once and marked as heard of until it has held here. */
export function WriteDown({ process: first, onDone }: { process: ProcessKey; onDone: () => void }) {
  const { inventory, units } = useShop()
  const navigate = useNavigate()
  const forget = useForgetLists()
  const [form, setForm, forgetForm] = useTabState('write-down', () => begun(first, inventory))
  const { process, material, head, standing, settings, words } = form
  const set = (part: Partial<Written>) => setForm((before) => ({ ...before, ...part }))
  const done = () => {
    forgetForm()
    onDone()
  }
  const fitting = inventory.materials.filter((one) => !one.retired && one.processes.includes(process))
  const heads = inventory.heads.filter((one) => !one.retired)
  const parameters = useSettingsOn(head, process)
  const save = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/api/recipes/written-down', {
          body: {
            process,
            material,
            head,
            standing,
            settings: Object.fromEntries(
              parameters.map(({ key }) => [key, settings[key] ?? '']).filter(([, value]) => value),
            ),
            units,
            purpose: words.purpose,
            note: words.note,
            links: words.source.trim() ? [{ title: '', url: words.source.trim() }] : [],
          },
        }),
      ),
    onSuccess: async ({ id }) => {
      await forget()
      done()
      void navigate(`/book/${id}`)
    },
  })
  const errors = save.error instanceof ProblemError ? save.error.byPath() : NO_ERRORS
  const placed = [...errors.keys()].some((path) => path.startsWith('settings.') || path.startsWith('links'))
  const row = (key: string) => parameters.find((one) => one.key === key)
  const shownFirst = ALWAYS_SHOWN.map(row).filter((one) => one !== undefined)
  const others = parameters.filter((one) => !ALWAYS_SHOWN.includes(one.key))
  return (
    <Card p="4" mb="4" borderColor="steel" maxW="860px">
      <form
        onSubmit={(event) => {
          event.preventDefault()
          save.mutate()
        }}
      >
        <Text fontWeight="600" fontSize="18px">
          Write down what you heard
        </Text>
        <Text color="ink2" mb="3" fontSize="15px">
          It is shown as heard of, never as proven. Once it has held here it counts as tried.
        </Text>
        <Grid templateColumns={{ base: '1fr', sm: '1fr 1fr', md: '1fr 1fr 1fr 1fr' }} gap="3">
          <SelectField
            label="Process"
            value={process}
            options={inventory.processes.map((one) => ({ value: one.key, label: one.name }))}
            onPick={(next) => {
              const still = inventory.materials.find((one) => one.id === material)
              const other = inventory.materials.find((one) => one.processes.includes(next))?.id ?? 0
              set({ process: next, material: still?.processes.includes(next) ? material : other })
            }}
          />
          <SelectField
            label="Material"
            value={String(material)}
            options={fitting.map((one) => ({ value: String(one.id), label: one.title }))}
            onPick={(id) => set({ material: Number(id) })}
          />
          <SelectField
            label="Machine"
            value={String(head)}
            options={heads.map((one) => ({ value: String(one.id), label: one.title }))}
            onPick={(id) => set({ head: Number(id) })}
          />
          <SelectField
            label="It is"
            value={standing}
            options={inventory.written_down_as.map(({ key, name }) => ({ value: key, label: name }))}
            onPick={(standing) => set({ standing })}
          />
          {[...shownFirst, ...others].map((parameter) => (
            <TextField
              key={parameter.key}
              label={capital(parameter.name)}
              placeholder={parameter.unit}
              value={settings[parameter.key] ?? ''}
              error={errors.get(`settings.${parameter.key}`)}
              onChange={(event) => {
                const { value } = event.currentTarget
                set({ settings: { ...settings, [parameter.key]: value } })
              }}
            />
          ))}
        </Grid>
        <Grid templateColumns={{ base: '1fr', md: '1fr 1fr' }} gap="3" mt="3">
          <TextField
            label="For what (may be empty)"
            value={words.purpose}
            onChange={(event) => set({ words: { ...words, purpose: event.currentTarget.value } })}
          />
          <TextField
            label="Where from (a link, may be empty)"
            value={words.source}
            error={errors.get('links[0].url')}
            onChange={(event) => set({ words: { ...words, source: event.currentTarget.value } })}
          />
          <Box gridColumn="1 / -1">
            <NoteField
              label="Note"
              value={words.note}
              onChange={(note) => set({ words: { ...words, note } })}
            />
          </Box>
        </Grid>
        {save.error && !placed && (
          <Text role="alert" color="emberOnSoft" mt="2">
            {save.error.message}
          </Text>
        )}
        <Flex gap="2" mt="4">
          <Button type="submit" look="ember" loading={save.isPending} disabled={!material || !head}>
            Write it down
          </Button>
          <Button onClick={done}>Cancel</Button>
        </Flex>
      </form>
    </Card>
  )
}
