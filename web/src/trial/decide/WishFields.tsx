import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { Aim, BoundData, Process, Wish } from '../../api/types'
import { Button } from '../../shared/Button'
import { TextField } from '../../shared/Fields'
import { anyGround } from '../../theme/palette'
import { boundsOf, withBound } from './useFinding'
import type { SetWish, WishKey } from './useFinding'

interface WishFieldsProps {
  process: Process
  wish: Wish
  /** What a mark can be chosen to be, and what a choice can be bounded by: by what was read. */
  canBe: Aim[]
  bounds: BoundData[]
  onWish: SetWish
}

/** What one keeps to: bounds, what a mark shall be, and the piece seconds are said for. */
export function WishFields({ process, wish, canBe, bounds, onWish }: WishFieldsProps) {
  const fields: [WishKey, string, string][] = [
    ['power_at_most_pct', 'Power at most', '%'],
    ...(canBe.includes('darkness')
      ? [['lightness', 'L* wanted', '0 to 100'] as [WishKey, string, string]]
      : []),
    ...(canBe.includes('depth')
      ? ([
          ['depth_mm', 'Depth wanted', 'mm'],
          ['depth_off_mm', 'Either way', 'mm'],
        ] as [WishKey, string, string][])
      : []),
    ['piece_mm', 'My piece', process.fills ? 'mm²' : 'mm'],
  ]
  const bounded = boundsOf(wish)
  const setBound = (key: string, value: number | null) => onWish('bounds', withBound(wish, key, value))
  return (
    <Flex gap="2" align="flex-end" wrap="wrap">
      {bounds
        .filter((one) => !one.is_flag)
        .map(({ key, label, hint }) => (
          <WishField
            key={`${key} ${bounded.get(key) ?? ''}`}
            label={label}
            unit={hint}
            value={bounded.get(key) ?? null}
            onKeep={(value) => setBound(key, value)}
          />
        ))}
      {fields.map(([key, label, unit]) => (
        <WishField
          key={`${key} ${wish[key] ?? ''}`}
          label={label}
          unit={unit}
          value={wish[key] ?? null}
          onKeep={(value) => onWish(key, value)}
        />
      ))}
      {bounds
        .filter((one) => one.is_flag)
        .map(({ key, label }) => {
          const on = bounded.get(key) === 0
          return (
            <Button
              key={key}
              size="sm"
              look={on ? 'ember' : 'quiet'}
              aria-pressed={on}
              onClick={() => setBound(key, on ? null : 0)}
            >
              {label}
            </Button>
          )
        })}
      {canBe.includes('colour') && (
        <WantedColour value={wish.colour ?? null} onKeep={(value) => onWish('colour', value)} />
      )}
    </Flex>
  )
}

/** A colour a mark shall have; the browser's own field says it, and it is asked for once it stands. */
function WantedColour({ value, onKeep }: { value: string | null; onKeep: (value: string | null) => void }) {
  const [picked, setPicked] = useState(value ?? anyGround.toLowerCase())
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
