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

/** A sentence of the server, which speaks in the units used inside, in those a person has chosen. Names stay as their
 * owner wrote them, thicknesses and all. Millimetres are lengths here, whatever lines are spaced in. */
export function inChosenUnits(
  sentence: string,
  table: UnitTable,
  chosen: ChosenUnits,
  names: string[] = [],
): string {
  const name = names.find((one) => sentence.includes(one))
  if (name) {
    const said = (part: string) => inChosenUnits(part, table, chosen, names)
    const at = sentence.indexOf(name)
    return said(sentence.slice(0, at)) + name + said(sentence.slice(at + name.length))
  }
  return Object.entries(table).reduce((said, [quantity, [inside]]) => {
    const unit = unitOf(table, quantity, chosen)
    if (!inside || !unit || unit === inside || quantity === 'spacing') return said
    // `600 x 400 mm` and `8 to 32 mm/s` are two figures with one unit.
    const figures = `(?<![\\w.])((?:\\d+(?:\\.\\d+)? (?:x|to|or) )?\\d+(?:\\.\\d+)?) ${inside.symbol}(?![\\w/²])`
    return said.replace(new RegExp(figures, 'g'), (_, numbers: string) => {
      const other = numbers.replace(/\d+(?:\.\d+)?/g, (one) => written(inUnit(Number(one), unit)))
      return `${other} ${unitSign(unit.symbol)}`
    })
  }, sentence)
}

export interface Shown {
  value: string
  unit: string
  /** The same in every other unit, for those who think in them. */
  others: string
}

/** A setting in the person's unit, with the other units as a hint. */
export function shown(value: number, parameter: Parameter, table: UnitTable, chosen: ChosenUnits): Shown {
  // Levels are words, not numbers.
  const level = parameter.words[value]
  if (level) return { value: level, unit: '', others: '' }
  const unit = unitOf(table, parameter.quantity, chosen)
  const units = table[parameter.quantity] ?? []
  const others = units
    .filter((other) => other !== unit && other.symbol !== '')
    .map((other) => `${written(inUnit(value, other))} ${unitSign(other.symbol)}`)
    .join(' = ')
  return { value: written(inUnit(value, unit)), unit: unitSign(unit?.symbol ?? ''), others }
}
