import type { Parameter, Piece, TrialCard } from '../api/types'
import type { ChosenUnits, UnitTable } from './units'
import { shown, written } from './units'

/** Settings that are in sight wherever some are shown, set or not. */
export const ALWAYS_SHOWN = ['speed_mm_s', 'power_pct', 'passes']

/** `1 patch`, `3 patches`. */
export const counted = (count: number, one: string, several = `${one}s`) =>
  `${count} ${count === 1 ? one : several}`

/** `25 settings to type, about 6 min`. */
export const typingWords = ({ rows, seconds }: { rows: readonly unknown[]; seconds: number }) =>
  `${counted(rows.length, 'setting')} to type, about ${Math.max(1, Math.round(seconds / 60))} min`

export const patchesOf = (count: number) => counted(count, 'patch', 'patches')

/** `4:32` from seconds; hours only where there are any. */
export function minutes(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds))
  const h = Math.floor(whole / 3600)
  const m = Math.floor((whole % 3600) / 60)
  const s = String(whole % 60).padStart(2, '0')
  return h > 0 ? `${h}:${String(m).padStart(2, '0')}:${s}` : `${m}:${s}`
}

/** The unit of what `minutes` says. */
export const clockUnit = (seconds: number) => (Math.round(seconds) >= 3600 ? 'h' : 'min')

const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec']

/** `19 Nov`, with the year where it is not this one. */
export function day(at: string, now = new Date()): string {
  const date = new Date(at)
  const short = `${date.getDate()} ${MONTHS[date.getMonth()]}`
  return date.getFullYear() === now.getFullYear() ? short : `${short} ${date.getFullYear()}`
}

/** `19 Nov, 10:42`. */
export function dayAndTime(at: string, now = new Date()): string {
  const date = new Date(at)
  const time = `${String(date.getHours()).padStart(2, '0')}:${String(date.getMinutes()).padStart(2, '0')}`
  return `${day(at, now)}, ${time}`
}

/** How large a piece is: `Ø 30 mm`, `300 × 180 mm`. */
export const sizeOf = ({ shape, width_mm, height_mm }: Pick<Piece, 'shape' | 'width_mm' | 'height_mm'>) =>
  shape === 'disc' ? `Ø ${width_mm} mm` : `${width_mm} × ${height_mm} mm`

/** Of several alike how many are bare yet. */
export const leftOf = ({ count, left }: Pick<Piece, 'count' | 'left'>) =>
  (count ?? 1) > 1 ? `, ${left ?? count} of ${count} left` : ''

export const trialName = (number: number) => `T-${String(number).padStart(3, '0')}`

const OBVIOUS_AT_ZERO = new Set(['hatch_angle_deg', 'hatch_turn_deg'])
const LEADING = new Set(['speed_mm_s', 'power_pct'])

/** The settings besides speed and power in a few words: `1 pass · 0.1 mm lines · in focus · air on`. */
export function otherSettings(
  settings: Record<string, number>,
  parameters: Parameter[],
  table: UnitTable,
  chosen: ChosenUnits,
  skip: ReadonlySet<string> = LEADING,
): string {
  const words: string[] = []
  for (const parameter of parameters) {
    const value = settings[parameter.key]
    if (value === undefined || skip.has(parameter.key)) continue
    if (value === 0 && OBVIOUS_AT_ZERO.has(parameter.key)) continue
    words.push(settingWords(parameter, value, table, chosen))
  }
  return words.join(' · ')
}

function settingWords(parameter: Parameter, value: number, table: UnitTable, chosen: ChosenUnits): string {
  if (parameter.key === 'passes') return counted(value, 'pass', 'passes')
  if (parameter.key === 'focus_offset_mm' && value === 0) return 'in focus'
  const { value: number, unit } = shown(value, parameter, table, chosen)
  if (parameter.key === 'line_spacing_mm' && unit === 'mm') return `${number} mm lines`
  return `${parameter.name} ${number} ${unit}`.trim()
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1)
}

/** Where a trial stands, as the thing to do next. */
export function standingWords(trial: Pick<TrialCard, 'stage' | 'scored' | 'patches'>): string {
  switch (trial.stage) {
    case 'plan':
      return 'being planned'
    case 'burn':
      return 'ready to burn'
    case 'read':
      return `${trial.scored} of ${trial.patches} read`
    case 'decide':
      return 'decide'
    case 'kept':
      return 'in the book'
  }
}

/** What a kerf does to sizes. */
export const kerfWords = (kerf: number) =>
  `A part comes out ${written(kerf)} mm smaller than it is drawn, a hole ${written(kerf)} mm larger.`
