import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError, answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { ProcessKey, WrittenAs } from '../api/types'
import { NoteField } from '../forms/FormFields'
import { Button } from '../shared/Button'
import { SelectField, TextField } from '../shared/Fields'
import { Card } from '../shared/Parts'
import { useSettingsOn, useShop } from '../shared/ShopContext'
import { capital } from '../shared/words'

const NO_ERRORS: ReadonlyMap<string, string> = new Map()
const ALWAYS = ['speed_mm_s', 'power_pct', 'passes']

/** A setting from elsewhere, typed once and marked as heard of until it has held here. */
export function WriteDown({ process: first, onDone }: { process: ProcessKey; onDone: () => void }) {
  const { inventory, units } = useShop()
  const navigate = useNavigate()
  const forget = useForgetLists()
  const [process, setProcess] = useState<ProcessKey>(first)
  const fitting = inventory.materials.filter((one) => !one.retired && one.processes.includes(process))
  const heads = inventory.heads.filter((one) => !one.retired)
  const [material, setMaterial] = useState(fitting[0]?.id ?? 0)
  const [head, setHead] = useState(heads[0]?.id ?? 0)
  const [standing, setStanding] = useState<WrittenAs>('heard')
  const [settings, setSettings] = useState<Record<string, string>>({})
  const [words, setWords] = useState({ purpose: '', note: '', source: '' })
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
      void navigate(`/book/${id}`)
    },
  })
  const errors = save.error instanceof ProblemError ? save.error.byPath() : NO_ERRORS
  const placed = [...errors.keys()].some((path) => path.startsWith('settings.') || path.startsWith('links'))
  const row = (key: string) => parameters.find((one) => one.key === key)
  const shownFirst = ALWAYS.map(row).filter((one) => one !== undefined)
  const others = parameters.filter((one) => !ALWAYS.includes(one.key))
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
              setProcess(next)
              const still = inventory.materials.find((one) => one.id === material)
              if (!still?.processes.includes(next)) {
                setMaterial(inventory.materials.find((one) => one.processes.includes(next))?.id ?? 0)
              }
            }}
          />
          <SelectField
            label="Material"
            value={String(material)}
            options={fitting.map((one) => ({ value: String(one.id), label: one.title }))}
            onPick={(id) => setMaterial(Number(id))}
          />
          <SelectField
            label="Machine"
            value={String(head)}
            options={heads.map((one) => ({ value: String(one.id), label: one.title }))}
            onPick={(id) => setHead(Number(id))}
          />
          <SelectField
            label="It is"
            value={standing}
            options={inventory.written_down_as.map(({ key, name }) => ({ value: key, label: name }))}
            onPick={setStanding}
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
                setSettings((before) => ({ ...before, [parameter.key]: value }))
              }}
            />
          ))}
        </Grid>
        <Grid templateColumns={{ base: '1fr', md: '1fr 1fr' }} gap="3" mt="3">
          <TextField
            label="For what (may be empty)"
            value={words.purpose}
            onChange={(event) => setWords({ ...words, purpose: event.currentTarget.value })}
          />
          <TextField
            label="Where from (a link, may be empty)"
            value={words.source}
            error={errors.get('links[0].url')}
            onChange={(event) => setWords({ ...words, source: event.currentTarget.value })}
          />
          <Box gridColumn="1 / -1">
            <NoteField label="Note" value={words.note} onChange={(note) => setWords({ ...words, note })} />
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
          <Button onClick={onDone}>Cancel</Button>
        </Flex>
      </form>
    </Card>
  )
}
