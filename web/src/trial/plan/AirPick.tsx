import type { Head } from '../../api/types'
import { SelectField } from '../../shared/Fields'
import { AIR_LEVELS } from '../../shared/units'

interface AirPickProps {
  label: string
  value: string
  /** What stands for nothing said, where that can be. */
  unsaid?: string
  head: Head
  onPick: (level: string) => void
}

/** The levels of air a machine has. */
export function AirPick({ label, value, unsaid, head, onPick }: AirPickProps) {
  const levels = AIR_LEVELS.slice(0, head.machine_facts.air === 'low_high' ? 3 : 2)
  const options = levels.map((word, level) => ({ value: String(level), label: word }))
  return (
    <SelectField
      label={label}
      hideLabel
      compact
      value={value}
      onPick={onPick}
      options={unsaid === undefined ? options : [{ value: '', label: unsaid }, ...options]}
    />
  )
}
