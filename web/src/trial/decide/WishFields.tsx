import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { Process, Wish } from '../../api/types'
import { TextField } from '../../shared/Fields'
import type { WishKey } from './useFinding'

interface WishFieldsProps {
  process: Process
  wish: Wish
  onWish: (key: WishKey, value: number | null) => void
}

/** What one keeps to: bounds, and the piece seconds are said for. */
export function WishFields({ process, wish, onWish }: WishFieldsProps) {
  const fields: [WishKey, string, string][] = [
    ['power_at_most_pct', 'Power at most', '%'],
    ...(process.passes_through
      ? [['char_at_most', 'Char at most', '0 to 3'] as [WishKey, string, string]]
      : []),
    ...(process.passes_through ? [] : [['lightness', 'L* wanted', '0 to 100'] as [WishKey, string, string]]),
    ['piece_mm', 'My piece', process.fills ? 'mm²' : 'mm'],
  ]
  return (
    <Flex gap="2" align="flex-end">
      {fields.map(([key, label, unit]) => (
        <WishField
          key={`${key} ${wish[key] ?? ''}`}
          label={label}
          unit={unit}
          value={wish[key] ?? null}
          onKeep={(value) => onWish(key, value)}
        />
      ))}
    </Flex>
  )
}

interface WishFieldProps {
  label: string
  unit: string
  value: number | null
  onKeep: (value: number | null) => void
}

function WishField({ label, unit, value, onKeep }: WishFieldProps) {
  const [typed, setTyped] = useState(value === null ? '' : String(value))
  const number = Number(typed.replace(',', '.').replace(/[^\d.]*$/, ''))
  const wrong = typed.trim() !== '' && !(Number.isFinite(number) && number >= 0)
  const keep = () => {
    const next = typed.trim() === '' ? null : number
    if (!wrong && next !== value) onKeep(next)
  }
  return (
    <Text as="div" flex="1" minW="0">
      <TextField
        label={label}
        value={typed}
        placeholder={unit}
        error={wrong ? 'A number' : undefined}
        onChange={(event) => setTyped(event.currentTarget.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === 'Enter' && keep()}
      />
    </Text>
  )
}
