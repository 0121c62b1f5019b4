import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useId, useState } from 'react'
import type { SyntheticEvent } from 'react'
import { Button } from '../shared/Button'
import { Label, SelectField, TextField } from '../shared/Fields'
import { useShop } from '../shared/ShopContext'
import { unitOf, unitSign } from '../shared/units'
import { anyGround } from '../theme/palette'
import { isRecord } from '../shared/records'
import { Curves, Order } from './ControlFields'
import { NoteField } from './NoteField'
import { OutlineFromPhoto } from './OutlineFromPhoto'
import type { Field, Values } from './fields'

interface FormFieldsProps {
  fields: Field[]
  values: Values
  errors: ReadonlyMap<string, string>
  onChange: (key: string, value: unknown) => void
  /** Keys of what is only assumed. */
  assumed?: readonly string[]
  /** Whether what is seldom touched is folded away. */
  fold?: boolean
}

/** The fields of a form, each with its sentence where something is wrong; what is seldom touched stands under *more*,
 * open where something in it is wrong. */
export function FormFields({
  fields,
  values,
  errors,
  onChange,
  assumed = [],
  fold = false,
}: FormFieldsProps) {
  const [open, setOpen] = useState(false)
  const first = fold ? fields.filter((field) => !field.more) : fields
  const more = fold ? fields.filter((field) => field.more) : []
  const wrong = [...errors.keys()].some((path) => more.some(({ key }) => path.startsWith(key)))
  const grid = (shown: Field[]) => (
    <Grid templateColumns={{ base: '1fr', sm: '1fr 1fr' }} gap="3" alignItems="start">
      {shown.map((field) => (
        <Box key={field.key} gridColumn={isWide(field) ? '1 / -1' : undefined}>
          <OneField
            field={assumed.includes(field.key) ? asAssumed(field) : field}
            value={values[field.key]}
            errors={errors}
            onChange={(value) => onChange(field.key, value)}
            onFound={({ outline, holes }) => {
              onChange('outline', outline)
              onChange('holes', holes)
            }}
          />
        </Box>
      ))}
    </Grid>
  )
  return (
    <>
      {grid(first)}
      {more.length > 0 && (
        <Box
          as="details"
          mt="3"
          {...{ open: open || wrong }}
          onToggle={({ currentTarget }: SyntheticEvent) => setOpen(currentTarget.hasAttribute('open'))}
        >
          <Box as="summary" cursor="pointer" minH="32px" fontWeight="600" fontSize="15px" mb="2">
            More{assumed.length > 0 && ', filled with what is usual'}
          </Box>
          {grid(more)}
        </Box>
      )}
    </>
  )
}

/** A field that says that its figure is not looked up yet, and how one comes to know it. */
const asAssumed = (field: Field): Field => ({
  ...field,
  hint: `assumed; ${field.findOut ?? field.hint ?? 'look it up'}`,
})

const isWide = (field: Field) =>
  ['note', 'levels', 'rows', 'checks', 'pulses', 'flag', 'curves', 'order'].includes(field.kind)

interface OneFieldProps {
  field: Field
  /** Several fields at once, as a photo shows them. */
  onFound: (found: { outline: string; holes: string }) => void
  value: unknown
  errors: ReadonlyMap<string, string>
  onChange: (value: unknown) => void
}

function OneField({ field, value, errors, onChange, onFound }: OneFieldProps) {
  const error = errors.get(field.key)
  const text = typeof value === 'string' ? value : ''
  const { label } = field
  const { inventory, units } = useShop()
  const unit =
    field.kind === 'quantity'
      ? unitSign(unitOf(inventory.units, field.quantity, units)?.symbol ?? '')
      : undefined
  switch (field.kind) {
    case 'choice':
      return (
        <SelectField
          label={label}
          value={text}
          options={field.options}
          error={error}
          hint={field.hint}
          onPick={onChange}
        />
      )
    case 'checks':
      return <Checks field={field} ticked={(value as string[] | null) ?? []} onChange={onChange} />
    case 'flag':
      return (
        <Flex as="label" align="center" gap="2" minH="44px" fontSize="15px" cursor="pointer">
          <input
            type="checkbox"
            checked={value === true}
            onChange={(event) => onChange(event.currentTarget.checked)}
            style={{ width: 24, height: 24 }}
          />
          {label}
        </Flex>
      )
    case 'note':
      return <NoteField label={label} value={text} error={error} onChange={onChange} />
    case 'colour':
      return <ColourField label={label} value={text} onChange={onChange} />
    case 'pair':
      return (
        <Pair label={label} value={Array.isArray(value) ? value : null} errors={errors} onChange={onChange} />
      )
    case 'levels':
    case 'rows':
      return (
        <>
          {field.kind === 'rows' && field.fromPhoto && <OutlineFromPhoto onFound={onFound} />}
          <NoteField
            label={label}
            value={text}
            error={[...errors].find(([path]) => path.startsWith(field.key))?.[1]}
            onChange={onChange}
          />
        </>
      )
    case 'curves':
      return <Curves field={field} value={isRecord(value) ? value : {}} errors={errors} onChange={onChange} />
    case 'order':
      return (
        <Order
          label={label}
          options={field.options}
          order={Array.isArray(value) ? value.map(String) : []}
          onChange={onChange}
        />
      )
    case 'pulses':
      return <Pulses value={Array.isArray(value) ? value : null} errors={errors} onChange={onChange} />
    default:
      return (
        <TextField
          label={label}
          placeholder={unit}
          value={text}
          error={error}
          hint={field.hint}
          required={field.needed}
          usual={field.kind === 'text' ? field.usual : undefined}
          onChange={(event) => onChange(event.currentTarget.value)}
        />
      )
  }
}

function Checks({
  field,
  ticked,
  onChange,
}: {
  field: Extract<Field, { kind: 'checks' }>
  ticked: string[]
  onChange: (ticked: string[]) => void
}) {
  const hints = field.options.filter((option) => option.hint && ticked.includes(option.value))
  return (
    <Box as="fieldset" border="0" p="0" m="0" aria-label={field.label}>
      <Text fontSize="13px" fontWeight="600" color="ink2" mb="1">
        {field.label}
      </Text>
      <Flex columnGap="4" rowGap="1" wrap="wrap">
        {field.options.map((option) => (
          <label
            key={option.value}
            style={{ display: 'inline-flex', gap: 7, alignItems: 'center', minHeight: 32 }}
          >
            <input
              type="checkbox"
              checked={ticked.includes(option.value)}
              style={{ width: 24, height: 24 }}
              onChange={(event) =>
                onChange(
                  event.currentTarget.checked
                    ? [...ticked, option.value]
                    : ticked.filter((one) => one !== option.value),
                )
              }
            />
            {option.label}
          </label>
        ))}
      </Flex>
      {hints.map((option) => (
        <Text key={option.value} fontSize="14px" color="emberOnSoft">
          {option.label}: {option.hint}
        </Text>
      ))}
    </Box>
  )
}

function ColourField({
  label,
  value,
  onChange,
}: {
  label: string
  value: string
  onChange: (value: string) => void
}) {
  const id = useId()
  return (
    <Box>
      <Label id={id}>{label}</Label>
      <Flex gap="3" align="center">
        <input
          id={id}
          type="color"
          value={value || anyGround}
          style={{ width: 56, height: 36, background: 'transparent' }}
          onChange={(event) => onChange(event.currentTarget.value)}
        />
        {value ? (
          <Button look="link" onClick={() => onChange('')}>
            not known
          </Button>
        ) : (
          <Text color="ink2" fontSize="14px">
            not known
          </Text>
        )}
      </Flex>
    </Box>
  )
}

function Pair({
  label,
  value,
  errors,
  onChange,
}: {
  label: string
  value: unknown[] | null
  errors: ReadonlyMap<string, string>
  onChange: (value: unknown[] | null) => void
}) {
  const [low = '', high = ''] = (value ?? []).map(String)
  const set = (pair: [string, string]) => onChange(pair.some((one) => one.trim()) ? pair : null)
  const error =
    errors.get('frequency_khz') ?? errors.get('frequency_khz[0]') ?? errors.get('frequency_khz[1]')
  return (
    <Flex gap="2" align="flex-start">
      <TextField
        label={`${label} from`}
        value={low}
        error={error}
        onChange={(event) => set([event.currentTarget.value, high])}
      />
      <TextField label="to" value={high} onChange={(event) => set([low, event.currentTarget.value])} />
    </Flex>
  )
}

interface Pulse {
  ns: unknown
  frequency_khz: unknown[]
  full_power_from_khz: unknown
}

/** Each pulse width with the frequencies it allows. */
function Pulses({
  value,
  errors,
  onChange,
}: {
  value: Pulse[] | null
  errors: ReadonlyMap<string, string>
  onChange: (value: Pulse[] | null) => void
}) {
  const rows = value ?? []
  const set = (index: number, row: Pulse) => onChange(rows.map((one, i) => (i === index ? row : one)))
  return (
    <Box as="fieldset" border="0" p="0" m="0" aria-label="Pulse widths">
      <Text fontSize="13px" fontWeight="600" color="ink2" mb="1">
        Pulse widths, each with the frequencies it allows
      </Text>
      {rows.map((row, index) => {
        const [low, high] = row.frequency_khz
        const error = [...errors].find(([path]) => path.startsWith(`pulse_widths[${index}]`))?.[1]
        const input = (label: string, text: unknown, change: (text: string) => Pulse) => (
          <TextField
            label={label}
            hideLabel={index > 0}
            value={String(text ?? '')}
            onChange={(event) => set(index, change(event.currentTarget.value))}
          />
        )
        return (
          <Box key={index} mb="1.5">
            <Flex gap="2" align="flex-end">
              {input('ns', row.ns, (ns) => ({ ...row, ns }))}
              {input('from kHz', low, (text) => ({ ...row, frequency_khz: [text, high] }))}
              {input('to kHz', high, (text) => ({ ...row, frequency_khz: [low, text] }))}
              {input('full power from', row.full_power_from_khz, (text) => ({
                ...row,
                full_power_from_khz: text,
              }))}
              <Button
                aria-label={`Remove pulse width ${index + 1}`}
                onClick={() => onChange(rows.filter((_, i) => i !== index))}
              >
                −
              </Button>
            </Flex>
            {error && (
              <Text role="alert" fontSize="13px" color="emberOnSoft">
                {error}
              </Text>
            )}
          </Box>
        )
      })}
      <Button
        size="sm"
        onClick={() => onChange([...rows, { ns: '', frequency_khz: ['', ''], full_power_from_khz: '' }])}
      >
        + pulse width
      </Button>
    </Box>
  )
}
