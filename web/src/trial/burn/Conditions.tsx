import { Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'
import type { Burn, Lay, TrialPageData } from '../../api/types'
import { SelectField, TextField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { useTabState } from '../../shared/useTabState'
import { day } from '../../shared/words'

export interface BurnConditions {
  lot: string
  measured_mm: string
  focus: string
  air: string
  cleaning: string
  hold_down: string
  lay: Lay
  roller_mm: string
  stack_of: string
  below: string
  tabs: string
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
  lay: burn.lay,
  roller_mm: String(burn.roller_mm ?? ''),
  stack_of: String(burn.stack_of ?? ''),
  below: burn.below,
  tabs: burn.tabs,
  note: burn.note,
})

/** How it is burned: as it was noted, else as last time with this material on this machine in this process. What comes
 * from last time is marked until somebody has looked at it. */
export function useConditions(page: TrialPageData, before?: BurnConditions) {
  const { inventory } = useShop()
  const last = page.last_conditions
  const lots = inventory.lots.filter((lot) => lot.material_id === page.material_id && !lot.retired)
  const only = lots.length === 1 ? lots[0] : undefined
  const place = `conditions.${page.id}.${before ? 'right' : page.edit}`
  const [form, setForm, forget] = useTabState<BurnConditions>(
    place,
    before ?? {
      lot: last ? (last.lot ?? '') : (only?.name ?? ''),
      measured_mm: String((last ? last.measured_mm : only?.measured_mm) ?? ''),
      focus: last?.focus ?? '',
      air: last?.air ?? '',
      cleaning: last?.cleaning ?? '',
      hold_down: last?.hold_down ?? '',
      lay: last?.lay ?? 'flat',
      roller_mm: String(last?.roller_mm ?? ''),
      stack_of: String(last?.stack_of ?? ''),
      below: last?.below ?? '',
      tabs: last?.tabs ?? '',
      note: '',
    },
  )
  const [unseen, setUnseen] = useState<ReadonlySet<string>>(
    () =>
      new Set(
        before
          ? []
          : Object.keys(form).filter((key) => !['', 'flat'].includes(form[key as keyof BurnConditions])),
      ),
  )
  const see = (key: string) => setUnseen((now) => new Set([...now].filter((one) => one !== key)))
  const from = last ? `as on ${day(last.at)}` : 'the only lot'
  return { form, setForm, forget, lots, unseen, see, from, asLastTime: last !== null }
}

const FIELDS: { key: keyof BurnConditions; label: string }[] = [
  { key: 'lot', label: 'Lot' },
  { key: 'measured_mm', label: 'Measured thickness, mm' },
  { key: 'focus', label: 'Focus, how set' },
  { key: 'air', label: 'Air' },
  { key: 'cleaning', label: 'Cleaned with' },
  { key: 'hold_down', label: 'Held down by' },
  { key: 'below', label: 'Below it' },
  { key: 'tabs', label: 'Tabs' },
]

interface ConditionsProps extends ReturnType<typeof useConditions> {
  errors: ReadonlyMap<string, string>
}

export function Conditions({ form, setForm, lots, unseen, see, from, errors }: ConditionsProps) {
  const { forms } = useShop().inventory
  const field = (key: keyof BurnConditions, label: string) => (
    <TextField
      key={key}
      label={label}
      value={form[key]}
      error={errors.get(key)}
      hint={unseen.has(key) ? `${from}, not looked at yet` : undefined}
      borderStyle={unseen.has(key) ? 'dashed' : undefined}
      list={key === 'lot' ? 'lots' : key === 'below' ? 'below' : undefined}
      onFocus={() => see(key)}
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
      <datalist id="below">
        {forms.below.map((one) => (
          <option key={one} value={one} />
        ))}
      </datalist>
      <Flex gap="2.5" align="flex-end" wrap="wrap" mb="2.5">
        <SelectField
          label="It lies"
          value={form.lay}
          hint={unseen.has('lay') ? `${from}, not looked at yet` : undefined}
          options={forms.lays.map(({ key, name }) => ({ value: key as Lay, label: name }))}
          onPick={(lay) => {
            see('lay')
            setForm({
              ...form,
              lay,
              roller_mm: lay === 'roller' ? form.roller_mm : '',
              stack_of: lay === 'stacked' ? form.stack_of || '2' : '',
            })
          }}
        />
        {form.lay === 'roller' && field('roller_mm', 'Diameter, mm')}
        {form.lay === 'stacked' && field('stack_of', 'Sheets')}
      </Flex>
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
