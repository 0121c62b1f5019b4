import { Button } from '../../shared/Button'
import { Grid, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { ProblemError, post } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { TrialPageData } from '../../api/types'
import { TextField } from '../../shared/Fields'
import { Card, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'

/** "I burned it" is one action; the conditions are those of last time until somebody says otherwise. */
export function BurnForm({ page }: { page: TrialPageData }) {
  const { inventory, me } = useShop()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const last = page.last_conditions
  const lots = inventory.lots.filter((lot) => lot.material_id === page.material_id && !lot.retired)
  const [form, setForm] = useState({
    lot: last?.lot ?? lots[0]?.name ?? '',
    measured_mm: String(last?.measured_mm ?? lots[0]?.measured_mm ?? ''),
    focus: last?.focus ?? '',
    air: last?.air ?? '',
    note: '',
  })
  const burn = useMutation({
    mutationFn: () => post<{ id: number }>(`/api/trials/${page.id}/burns`, { ...form, edit: page.edit }),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void client.invalidateQueries({ queryKey: ['shop'] })
      void forgetLists()
    },
  })
  const errors = burn.error instanceof ProblemError ? burn.error.byPath() : new Map<string, string>()
  const field = (key: keyof typeof form, label: string, more: { list?: string; hint?: string } = {}) => (
    <TextField
      label={label}
      value={form[key]}
      error={errors.get(key)}
      onChange={(event) => setForm({ ...form, [key]: event.currentTarget.value })}
      {...more}
    />
  )
  const unplaced = [...errors].find(([path]) => !(path in form))?.[1]
  return (
    <Card p="4">
      <Section title={last ? 'As last time, unless you change it' : 'How it is burned'}>
        <form
          onSubmit={(event) => {
            event.preventDefault()
            burn.mutate()
          }}
        >
          <Grid templateColumns="1fr 1fr" gap="2.5">
            {field('lot', 'Lot', { list: 'lots' })}
            {field('measured_mm', 'Measured thickness, mm')}
            {field('focus', 'Focus, how set')}
            {field('air', 'Air')}
          </Grid>
          <datalist id="lots">
            {lots.map((lot) => (
              <option key={lot.id} value={lot.name} />
            ))}
          </datalist>
          <div style={{ marginTop: 10 }}>{field('note', 'Note')}</div>
          {burn.error && (unplaced || errors.size === 0) && (
            <Text role="alert" color="emberOnSoft" mt="2">
              {unplaced ?? burn.error.message}
            </Text>
          )}
          <Button
            type="submit"
            look="ember"
            size="lg"
            mt="3"
            loading={burn.isPending}
            disabled={!me.may_write}
          >
            I burned it
          </Button>
          <Text mt="2" fontSize="14px" color="ink2">
            {me.may_write
              ? `Logged for ${me.name}, now. Goggles on, extraction on, and never leave it alone.`
              : `You are here as ${me.role}; a member can log a burn.`}
          </Text>
        </form>
      </Section>
    </Card>
  )
}
