import type { Inventory, Parameter, Unit } from '../api/types'

/** The unit a person has chosen for each quantity; others are shown as used inside. */
export type ChosenUnits = Record<string, string>
export type UnitTable = Inventory['units']

export function unitOf(table: UnitTable, quantity: string, chosen: ChosenUnits): Unit | undefined {
  const units = table[quantity] ?? []
  return units.find((unit) => unit.symbol === chosen[quantity]) ?? units[0]
}

/** A value used inside, in another unit. */
export function inUnit(value: number, unit: Unit | undefined): number {
  if (!unit) return value
  return unit.inverse ? unit.factor / value : value / unit.factor
}

/** A number as one writes it at the bench: four digits at most, no trailing zeros. */
export function written(value: number, digits = 4): string {
  if (!Number.isFinite(value)) return ''
  return String(Number(value.toPrecision(digits)))
}

/** Nice spellings of unit symbols; inside they are plain ASCII. */
export function unitSign(symbol: string): string {
  return symbol
    .replace(/^us$/, 'µs')
    .replace(/^um$/, 'µm')
    .replace(/^deg$/, '°')
    .replace(/2$/, '²')
    .replace(/m3$/, 'm³')
}

/** Levels are words, not numbers. */
export const AIR_LEVELS = ['off', 'on', 'high']

export interface Shown {
  value: string
  unit: string
  /** The same in every other unit, for those who think in them. */
  others: string
}

/** A setting in the person's unit, with the other units as a hint. */
export function shown(value: number, parameter: Parameter, table: UnitTable, chosen: ChosenUnits): Shown {
  const level = parameter.key === 'air_level' ? AIR_LEVELS[value] : undefined
  if (level) return { value: level, unit: '', others: '' }
  const unit = unitOf(table, parameter.quantity, chosen)
  const units = table[parameter.quantity] ?? []
  const others = units
    .filter((other) => other !== unit && other.symbol !== '')
    .map((other) => `${written(inUnit(value, other))} ${unitSign(other.symbol)}`)
    .join(' = ')
  return { value: written(inUnit(value, unit)), unit: unitSign(unit?.symbol ?? ''), others }
}
