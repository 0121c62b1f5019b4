import type { Version } from '../api/types'
import { isRecord } from '../shared/records'

/** What the book can say differently from one version of a recipe to the next. */
export const SAID = [
  { key: 'standing', label: 'Standing' },
  { key: 'purpose', label: 'Purpose' },
  { key: 'note', label: 'Note' },
  { key: 'pinned', label: 'To be read first' },
  { key: 'good_enough', label: 'Good enough' },
  { key: 'conditions', label: 'Conditions' },
  { key: 'supplier_code', label: 'Supplier’s code' },
  { key: 'links', label: 'Links' },
  { key: 'kerf_mm', label: 'Kerf' },
  { key: 'superseded_by', label: 'Superseded by' },
] as const

export interface Difference {
  name: string
  before: string
  after: string
}

const words = (key: string, value: unknown): string => {
  if (Array.isArray(value))
    return value.map((link) => (isRecord(link) ? String(link.title || link.url) : '')).join(', ') || 'nothing'
  if (typeof value === 'number') return key === 'kerf_mm' ? `${value} mm` : `recipe ${value}`
  return typeof value === 'string' && value !== '' ? value : 'nothing'
}

/** The differences between two versions; a key an older version does not have yet counts as nothing. */
export function changedWords(before: Version['recipe'], after: Version['recipe']): Difference[] {
  return SAID.map(({ key, label }) => ({
    name: label,
    before: words(key, before[key]),
    after: words(key, after[key]),
  })).filter((one) => one.before !== one.after)
}
