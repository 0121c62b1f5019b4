import type { Design, DesignKey, Parameter } from '../../api/types'
import { differingLines } from '../../shared/differingLines'
import type { Lines } from '../../shared/differingLines'
import { counted } from '../../shared/words'
import { isRecord } from '../../shared/records'

type ParameterOf = (key: string) => Parameter

const NOTHING = 'nothing'
const joined = (words: string[]) => words.filter(Boolean).join(', ') || NOTHING
const plain = (value: unknown) => String(value).replaceAll('_', ' ')

function settingsWords(settings: object | null | undefined, parameter: ParameterOf): string {
  return joined(
    Object.entries(settings ?? {})
      .map(([key, value]) => `${parameter(key).name} ${value} ${parameter(key).unit}`.trim())
      .sort(),
  )
}

function axisWords(axis: Design['axes'][number], parameter: ParameterOf): string {
  const { name, unit } = parameter(axis.parameter)
  const { values, from, to, count, spacing, wrap } = axis
  const says = values
    ? [String(values).replaceAll(',', ', '), unit]
    : [
        `${from} to ${to}`,
        unit,
        `in ${typeof count === 'number' ? counted(count, 'step') : `${count} steps`}`,
        spacing === 'geometric' ? 'of even ratios' : '',
      ]
  const lines = wrap ? `in lines of ${wrap}` : ''
  return [name, ...says, `along ${plain(axis.along)}`, lines].filter(Boolean).join(' ')
}

/** An object of a design, part by part: yes and no, numbers with the unit in their key, settings. */
function objectWords(value: object | null | undefined, parameter: ParameterOf): string {
  const parts = Object.entries(value ?? {}) as [string, unknown][]
  return joined(
    parts.map(([key, part]) => {
      if (part === null || part === undefined || part === false) return ''
      if (part === true) return plain(key)
      if (typeof part === 'object') return settingsWords(part, parameter)
      const [, name = key, unit = ''] = /^(.*)_(mm|deg)$/.exec(key) ?? []
      return `${plain(name)} ${plain(part)} ${unit === 'deg' ? '°' : unit}`.trim()
    }),
  )
}

/** Settings of patches one by one. */
const rowsWords = (value: unknown, parameter: ParameterOf) =>
  joined(
    isRecord(value) && Array.isArray(value.settings)
      ? value.settings.map((one: unknown) => settingsWords(isRecord(one) ? one : {}, parameter))
      : [],
  )

/** A key of a design in the words of the bench. */
function inWords(row: DesignKey, design: Design, parameter: ParameterOf): string {
  const value = design[row.key as keyof Design]
  if (row.kind === 'axes') return joined(design.axes.map((axis) => axisWords(axis, parameter)))
  if (row.kind === 'flag') return value ? 'yes' : 'no'
  if (value === null || value === undefined || value === '') return NOTHING
  if (Array.isArray(value)) return joined(value.map(plain))
  if (row.kind === 'rows') return rowsWords(value, parameter)
  if (isRecord(value)) {
    if (row.kind === 'settings') return settingsWords(value, parameter)
    if (row.kind === 'object') return objectWords(value, parameter)
    const words = (settings: unknown) => settingsWords(isRecord(settings) ? settings : {}, parameter)
    return joined(Object.entries(value).map(([patch, settings]) => `${patch}: ${words(settings)}`))
  }
  return `${plain(value)} ${row.unit}`.trim()
}

/** Theirs with some parts of mine. */
export function mergedDesign(theirs: Design, mine: Design, parts: ReadonlySet<string>): Design {
  const after: Record<string, unknown> = { ...theirs }
  for (const key of parts) {
    const part = mine[key as keyof Design]
    if (part === undefined) delete after[key]
    else after[key] = part
  }
  return after as unknown as Design
}

/** Where two designs differ, key by key. */
export function designDifferences(theirs: Design, mine: Design, keys: DesignKey[], parameter: ParameterOf) {
  const lines = (design: Design): Lines =>
    keys.map((row) => [row.key, row.name, inWords(row, design, parameter)])
  return differingLines(lines(theirs), lines(mine))
}
