import { Box, Flex, Input, NativeSelect, Text } from '@chakra-ui/react'
import type { InputProps } from '@chakra-ui/react'
import { useId } from 'react'
import type { ReactNode } from 'react'

interface LabelledProps {
  label: string
  error?: string
  hint?: string
  hideLabel?: boolean
}

/** A field with its label above and, where something is wrong, the sentence below. */
export function TextField({
  label,
  error,
  hint,
  hideLabel,
  usual = [],
  ...input
}: LabelledProps & Omit<InputProps, 'children'> & { usual?: readonly string[] }) {
  const id = useId()
  return (
    <Box>
      <Label id={id} hidden={hideLabel} needed={input.required}>
        {label}
      </Label>
      <Input
        id={id}
        height="36px"
        px="2.5"
        bg="card"
        borderColor={error ? 'ember' : 'control'}
        borderRadius="control"
        fontSize="15px"
        aria-label={hideLabel ? label : undefined}
        aria-invalid={error ? true : undefined}
        aria-describedby={error || hint ? `${id}-note` : undefined}
        autoComplete="off"
        _placeholder={{ color: 'ink3' }}
        list={usual.length > 0 ? `${id}-usual` : undefined}
        {...input}
      />
      {usual.length > 0 && (
        <datalist id={`${id}-usual`}>
          {usual.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      )}
      <Note id={id} error={error} hint={hint} />
    </Box>
  )
}

interface LabelProps {
  id: string
  hidden?: boolean
  needed?: boolean
  children: ReactNode
}

/** The label above a field, which says where it must be filled. */
export function Label({ id, hidden, needed, children }: LabelProps) {
  if (hidden) return null
  return (
    <Flex gap="1.5" fontSize="13px" mb="1">
      <Text as="label" {...{ htmlFor: id }} fontWeight="600" color="ink2">
        {children}
      </Text>
      {needed && (
        <Text as="span" aria-hidden="true" color="emberOnSoft">
          needed
        </Text>
      )}
    </Flex>
  )
}

/** What is wrong with a field, or what helps with it. */
export function Note({ id, error, hint }: { id: string; error?: string; hint?: string }) {
  if (!error && !hint) return null
  return (
    <Text
      id={`${id}-note`}
      fontSize="13px"
      mt="1"
      color={error ? 'emberOnSoft' : 'ink2'}
      role={error ? 'alert' : undefined}
    >
      {error ?? hint}
    </Text>
  )
}

interface Option<T extends string = string> {
  value: T
  label: string
}

interface SelectFieldProps<T extends string> extends LabelledProps {
  value: T
  options: readonly Option<T>[]
  onPick: (value: T) => void
  compact?: boolean
  disabled?: boolean
}

export function SelectField<T extends string>({
  label,
  error,
  hint,
  hideLabel,
  value,
  options,
  onPick,
  compact,
  disabled,
}: SelectFieldProps<T>) {
  const id = useId()
  return (
    <Box>
      <Label id={id} hidden={hideLabel}>
        {label}
      </Label>
      <NativeSelect.Root size={compact ? 'sm' : 'md'} disabled={disabled}>
        <NativeSelect.Field
          id={id}
          value={value}
          onChange={({ currentTarget }) => {
            const picked = options[currentTarget.selectedIndex]
            if (picked) onPick(picked.value)
          }}
          aria-label={hideLabel ? label : undefined}
          bg="card"
          borderColor={error ? 'ember' : 'control'}
          borderRadius="control"
          height={compact ? '34px' : '36px'}
          fontSize="15px"
        >
          {options.map((option) => (
            <option key={option.value} value={option.value}>
              {option.label}
            </option>
          ))}
        </NativeSelect.Field>
        <NativeSelect.Indicator color="ink2" />
      </NativeSelect.Root>
      <Note id={id} error={error} hint={hint} />
    </Box>
  )
}

interface ChoiceProps<T extends string> {
  label: string
  /** Empty while nothing is chosen. */
  value: T | ''
  options: readonly Option<T>[]
  onPick: (value: T) => void
}

/** A few ways that exclude each other, all visible: native radios in a row. */
export function Choice<T extends string>({ label, value, options, onPick }: ChoiceProps<T>) {
  const name = useId()
  return (
    <Box
      as="fieldset"
      border="0"
      p="0"
      m="0"
      aria-label={label}
      display="inline-flex"
      flexWrap="wrap"
      gap="1.5"
    >
      {options.map((option) => (
        <Box
          as="label"
          key={option.value}
          display="inline-flex"
          alignItems="center"
          minH="34px"
          px="3"
          borderRadius="control"
          borderWidth="1px"
          borderColor={option.value === value ? 'ink' : 'control'}
          bg={option.value === value ? 'ink' : 'card'}
          color={option.value === value ? 'card' : 'ink'}
          fontWeight="600"
          fontSize="14px"
          cursor="pointer"
          _focusWithin={{ outline: '3px solid', outlineColor: 'steel', outlineOffset: '2px' }}
        >
          <input
            type="radio"
            name={name}
            value={option.value}
            checked={option.value === value}
            onChange={() => onPick(option.value)}
            style={{ position: 'absolute', opacity: 0, width: 1, height: 1 }}
          />
          {option.label}
        </Box>
      ))}
    </Box>
  )
}
