import { Grid } from '@chakra-ui/react'
import { useState } from 'react'
import type { Burn, TrialPageData } from '../../api/types'
import { TextField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'

export interface BurnConditions {
  lot: string
  measured_mm: string
  focus: string
  air: string
  cleaning: string
  hold_down: string
  note: string
}

/** How a burn was noted. */
export const noted = (burn: Burn): BurnConditions => ({
  lot: burn.lot ?? '',
  measured_mm: String(burn.measured_mm ?? ''),
  focus: burn.focus,
  air: burn.air,
  cleaning: burn.cleaning,
  hold_down: burn.hold_down,
  note: burn.note,
})

/** How it is burned: as it was noted, else as last time on this machine, until somebody says otherwise. */
export function useConditions(page: TrialPageData, before?: BurnConditions) {
  const { inventory } = useShop()
  const last = page.last_conditions
  const lots = inventory.lots.filter((lot) => lot.material_id === page.material_id && !lot.retired)
  const [form, setForm] = useState<BurnConditions>(
    before ?? {
      lot: last?.lot ?? lots[0]?.name ?? '',
      measured_mm: String(last?.measured_mm ?? lots[0]?.measured_mm ?? ''),
      focus: last?.focus ?? '',
      air: last?.air ?? '',
      cleaning: last?.cleaning ?? '',
      hold_down: last?.hold_down ?? '',
      note: '',
    },
  )
  return { form, setForm, lots, asLastTime: last !== null }
}

const FIELDS: { key: keyof BurnConditions; label: string }[] = [
  { key: 'lot', label: 'Lot' },
  { key: 'measured_mm', label: 'Measured thickness, mm' },
  { key: 'focus', label: 'Focus, how set' },
  { key: 'air', label: 'Air' },
  { key: 'cleaning', label: 'Cleaned with' },
  { key: 'hold_down', label: 'Held down by' },
]

interface ConditionsProps extends ReturnType<typeof useConditions> {
  errors: ReadonlyMap<string, string>
}

export function Conditions({ form, setForm, lots, errors }: ConditionsProps) {
  const field = (key: keyof BurnConditions, label: string) => (
    <TextField
      key={key}
      label={label}
      value={form[key]}
      error={errors.get(key)}
      list={key === 'lot' ? 'lots' : undefined}
      onChange={(event) => setForm({ ...form, [key]: event.currentTarget.value })}
    />
  )
  return (
    <>
      <Grid templateColumns="1fr 1fr" gap="2.5" mb="2.5">
        {FIELDS.map(({ key, label }) => field(key, label))}
      </Grid>
      <datalist id="lots">
        {lots.map((lot) => (
          <option key={lot.id} value={lot.name} />
        ))}
      </datalist>
      {field('note', 'Note')}
    </>
  )
}

/** The first sentence that belongs to no field of the form. */
export function unplaced(
  error: unknown,
  errors: ReadonlyMap<string, string>,
  form: BurnConditions,
): string | null {
  if (!(error instanceof Error)) return null
  if (errors.size === 0) return error.message
  return [...errors].find(([path]) => !(path in form))?.[1] ?? null
}
