import type { Design, Patch } from '../../api/types'
import type { Typed } from './design'

/** Edits of a design whose settings are listed one by one. */

type Listed = NonNullable<Design['listed']>
type Row = Listed['settings'][number]
const ROW: Row = {}

/** How many lie in a line where nobody says. */
export const USUAL_WRAP = 6

const withRows = (design: Design, settings: Row[]): Design => ({
  ...design,
  off: [],
  overrides: {},
  listed: { ...design.listed, settings },
})

const rowsOf = (design: Design) => design.listed?.settings ?? []

/** Settings that at least one patch has of its own, in the order in which they came. */
export const ownKeys = (design: Design) => [...new Set(rowsOf(design).flatMap((row) => Object.keys(row)))]

/** An array as the list of its patches, those left out left out; they lie as they lay. */
export function asList(
  design: Design,
  patches: Pick<Patch, 'settings' | 'burn' | 'column' | 'block'>[],
): Design {
  const keys = design.axes.map((axis) => axis.parameter)
  const settings = patches
    .filter((patch) => patch.burn)
    .map((patch) => Object.fromEntries(keys.map((key) => [key, patch.settings[key] ?? 0])))
  const wrap = Math.max(1, ...patches.map((patch) => patch.column))
  return { ...withRows(design, settings), axes: [], repeats: null, listed: { settings, wrap } }
}

export function setRow(design: Design, index: number, key: string, value: Typed): Design {
  return withRows(
    design,
    rowsOf(design).map((row, i) => (i === index ? { ...row, [key]: value ?? '' } : row)),
  )
}

/** The same once more, right after it. */
export function repeatRow(design: Design, index: number): Design {
  const rows = rowsOf(design)
  return withRows(design, rows.toSpliced(index + 1, 0, { ...(rows[index] ?? ROW) }))
}

/** All of them once more, after the last. */
export const repeatAll = (design: Design) =>
  withRows(design, [...rowsOf(design), ...rowsOf(design).map((row) => ({ ...row }))])

/** One less; the last one stays. */
export function removeRow(design: Design, index: number): Design {
  const rows = rowsOf(design)
  return rows.length > 1 ? withRows(design, rows.toSpliced(index, 1)) : design
}

/** Let a setting be each patch's own, from what was held. */
export function addOwn(design: Design, key: string, held: Typed): Design {
  const hold = { ...design.hold }
  delete hold[key]
  const after = withRows(
    design,
    rowsOf(design).map((row) => ({ ...row, [key]: row[key] ?? held ?? '' })),
  )
  return { ...after, hold }
}

/** Hold a setting for all again, as the first has it; the last of them stays. */
export function dropOwn(design: Design, key: string): Design {
  if (ownKeys(design).length < 2) return design
  const rows = rowsOf(design)
  const first = rows.find((row) => key in row)?.[key]
  const after = withRows(
    design,
    rows.map((row) => Object.fromEntries(Object.entries(row).filter(([name]) => name !== key))),
  )
  return first === undefined ? after : { ...after, hold: { ...design.hold, [key]: first } }
}

/** Cells of a sheet, pasted from one cell on: rightwards over the settings, downwards over the patches, of which there
 * come to be as many as it takes. */
export function pasteCells(design: Design, text: string, index: number, key: string): Design {
  const keys = ownKeys(design)
  const from = Math.max(keys.indexOf(key), 0)
  const lines = text.replace(/\r/g, '').replace(/\n+$/, '').split('\n')
  const rows = rowsOf(design).map((row) => ({ ...row }))
  lines.forEach((line, i) => {
    const at = index + i
    rows[at] ??= { ...(rows.at(-1) ?? ROW) }
    const row = rows[at]
    line.split(/\t|;/).forEach((cell, j) => {
      const name = keys[from + j]
      if (row && name && cell.trim()) row[name] = cell.trim()
    })
  })
  return withRows(design, rows)
}
