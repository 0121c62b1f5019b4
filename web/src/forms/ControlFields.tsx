import { Box, Flex, Text } from '@chakra-ui/react'
import { Button } from '../shared/Button'
import { SelectField, TextField } from '../shared/Fields'
import { isRecord } from '../shared/records'
import type { Field, Option, Values } from './fields'
import { NoteField } from './NoteField'

interface CurvesProps {
  field: Extract<Field, { kind: 'curves' | 'order' }>
  value: Values
  errors: ReadonlyMap<string, string>
  onChange: (value: Values) => void
}

/** The scales a control has of its own: by setting its unit, what it shows = what that is, and how finely one reads it. */
export function Curves({ field, value, errors, onChange }: CurvesProps) {
  const free = field.options.filter((one) => !(one.value in value))
  return (
    <Box as="fieldset" border="0" p="0" m="0" aria-label={field.label}>
      <Text fontSize="13px" fontWeight="600" color="ink2" mb="1">
        {field.label}
      </Text>
      {Object.entries(value).map(([key, stored]) => {
        const curve = isRecord(stored) ? stored : {}
        const name = field.options.find((one) => one.value === key)?.label ?? key
        const set = (part: string, text: string) => onChange({ ...value, [key]: { ...curve, [part]: text } })
        const error = [...errors].find(([path]) => path.startsWith(`curves.${key}`))?.[1]
        return (
          <Box key={key} mb="2">
            <Flex gap="2" align="flex-end" wrap="wrap">
              <Box width="100px">
                <TextField
                  label={`${name} in`}
                  placeholder="mA"
                  value={String(curve.unit ?? '')}
                  onChange={(event) => set('unit', event.currentTarget.value)}
                />
              </Box>
              <Box width="100px">
                <TextField
                  label="finest read"
                  placeholder="0.5"
                  value={String(curve.step ?? '')}
                  onChange={(event) => set('step', event.currentTarget.value)}
                />
              </Box>
              <Button
                aria-label={`Remove the scale of ${name}`}
                onClick={() =>
                  onChange(Object.fromEntries(Object.entries(value).filter(([other]) => other !== key)))
                }
              >
                −
              </Button>
            </Flex>
            <NoteField
              label={`What it shows = ${name}, a pair a line`}
              value={String(curve.pairs ?? '')}
              error={error}
              onChange={(text) => set('pairs', text)}
            />
          </Box>
        )
      })}
      {free.length > 0 && (
        <SelectField
          label="Another scale"
          hideLabel
          compact
          value=""
          options={[{ value: '', label: '+ a scale for …' }, ...free]}
          onPick={(key) => key && onChange({ ...value, [key]: { unit: '', pairs: '', step: '' } })}
        />
      )}
    </Box>
  )
}

interface OrderProps {
  label: string
  options: Option[]
  order: string[]
  onChange: (order: string[]) => void
}

/** Settings in an order: pressed one after the other, and pressed again taken out. */
export function Order({ label, options, order, onChange }: OrderProps) {
  return (
    <Box as="fieldset" border="0" p="0" m="0" aria-label={label}>
      <Text fontSize="13px" fontWeight="600" color="ink2" mb="1">
        {label}: press them one after the other
      </Text>
      <Flex gap="1.5" wrap="wrap">
        {options.map(({ value, label: name }) => {
          const place = order.indexOf(value)
          return (
            <Button
              key={value}
              size="sm"
              look="quiet"
              aria-pressed={place >= 0}
              onClick={() =>
                onChange(place < 0 ? [...order, value] : order.filter((other) => other !== value))
              }
            >
              {place < 0 ? name : `${place + 1} ${name}`}
            </Button>
          )
        })}
      </Flex>
    </Box>
  )
}
