import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { Aim, Process, Wish } from '../../api/types'
import { Button } from '../../shared/Button'
import { TextField } from '../../shared/Fields'
import type { SetWish, WishKey } from './useFinding'

interface WishFieldsProps {
  process: Process
  wish: Wish
  /** What a mark can be chosen to be, by what was read of it. */
  canBe: Aim[]
  onWish: SetWish
}

/** What one keeps to: bounds, what a mark shall be, and the piece seconds are said for. */
export function WishFields({ process, wish, canBe, onWish }: WishFieldsProps) {
  const fields: [WishKey, string, string][] = [
    ['power_at_most_pct', 'Power at most', '%'],
    ...(process.passes_through
      ? [['char_at_most', 'Char at most', '0 to 3'] as [WishKey, string, string]]
      : []),
    ...(canBe.includes('darkness')
      ? [['lightness', 'L* wanted', '0 to 100'] as [WishKey, string, string]]
      : []),
    ['piece_mm', 'My piece', process.fills ? 'mm²' : 'mm'],
    ...(canBe.includes('depth')
      ? ([
          ['depth_mm', 'Depth wanted', 'mm'],
          ['depth_off_mm', 'Either way', 'mm'],
        ] as [WishKey, string, string][])
      : []),
  ]
  return (
    <Flex gap="2" align="flex-end" wrap="wrap">
      {fields.map(([key, label, unit]) => (
        <WishField
          key={`${key} ${wish[key] ?? ''}`}
          label={label}
          unit={unit}
          value={wish[key] ?? null}
          onKeep={(value) => onWish(key, value)}
        />
      ))}
      {canBe.includes('colour') && (
        <WantedColour value={wish.colour ?? null} onKeep={(value) => onWish('colour', value)} />
      )}
    </Flex>
  )
}

/** A colour a mark shall have; the browser's own field says it, and it is asked for once it stands. */
function WantedColour({ value, onKeep }: { value: string | null; onKeep: (value: string | null) => void }) {
  const [picked, setPicked] = useState(value ?? '#806040')
  return (
    <Flex align="center" gap="2" flexBasis="100%">
      <Text as="label" fontSize="14.5px" display="flex" alignItems="center" gap="2">
        Colour wanted
        <input
          type="color"
          value={picked}
          onChange={(event) => setPicked(event.currentTarget.value)}
          onBlur={() => value !== null && picked !== value && onKeep(picked)}
          style={{ width: '44px', height: '44px' }}
        />
      </Text>
      {value === picked ? (
        <Button look="link" size="sm" onClick={() => onKeep(null)}>
          any colour
        </Button>
      ) : (
        <Button look="quiet" size="sm" onClick={() => onKeep(picked)}>
          Choose by it
        </Button>
      )}
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
    <Text as="div" flex="1" minW="96px">
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
