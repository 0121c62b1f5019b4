import type { Head } from '../../api/types'
import { SelectField } from '../../shared/Fields'
import { useParameter, useShop } from '../../shared/ShopContext'

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
  const { airs } = useShop().inventory.forms
  const { words } = useParameter()('air_level')
  const levels = words.slice(0, airs.find((air) => air.key === head.machine_facts.air)?.levels)
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
