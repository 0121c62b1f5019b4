import { Box, Input } from '@chakra-ui/react'
import type { InputProps } from '@chakra-ui/react'
import type { Parameter } from '../../api/types'
import { SelectField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { inUnit, shown, unitOf, written } from '../../shared/units'
import type { Typed } from './design'

interface TypedFieldProps extends Omit<InputProps, 'onChange' | 'value'> {
  label: string
  value: Typed
  parameter: Parameter
  error?: string
  onType: (text: string) => void
  onLeave: () => void
}

/** A number that takes what people type. A number shows in my unit; a text stays as it was typed; what has levels
 * offers them by their words. */
export function TypedField({ label, value, parameter, error, onType, onLeave, ...input }: TypedFieldProps) {
  const { inventory, units } = useShop()
  const unit = unitOf(inventory.units, parameter.quantity, units)
  if (parameter.words.length > 0) {
    return (
      <Box minW={input.width ?? input.w}>
        <SelectField
          label={label}
          hideLabel
          compact
          value={String(value ?? '')}
          onPick={onType}
          options={parameter.words.map((word, level) => ({ value: String(level), label: word }))}
        />
      </Box>
    )
  }
  const text = typeof value === 'number' ? written(inUnit(value, unit), 6) : (value ?? '')
  return (
    <Input
      aria-label={label}
      aria-invalid={error ? true : undefined}
      title={typeof value === 'number' ? shown(value, parameter, inventory.units, units).others : undefined}
      value={text}
      onChange={(event) => onType(event.currentTarget.value)}
      onBlur={onLeave}
      onKeyDown={(event) => event.key === 'Enter' && onLeave()}
      height="34px"
      px="2"
      bg="card"
      textAlign="center"
      fontWeight="700"
      fontSize="16px"
      borderColor={error ? 'ember' : 'control'}
      borderWidth={error ? '2px' : '1px'}
      borderRadius="control"
      autoComplete="off"
      {...input}
    />
  )
}
