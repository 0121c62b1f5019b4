import type { Inventory, Material, ProcessKey } from '../api/types'

/** The sentence one completes: what it says, and what each word can be. */

export interface Sentence {
  process: ProcessKey
  material: Material | null
  head: number | null
}

export const materialNames = (materials: Material[]) => [...new Set(materials.map((one) => one.name))]

export function thicknesses(materials: Material[], name: string): Material[] {
  return materials
    .filter((one) => one.name === name)
    .sort((a, b) => (a.thickness_mm ?? 0) - (b.thickness_mm ?? 0))
}

/** The materials in use that a process is meant for. */
export function meantFor(materials: Material[], process: ProcessKey): Material[] {
  return materials.filter((one) => !one.retired && one.processes.includes(process))
}

/** The sentence an address stands for; words it does not say are filled with the first that fits. */
export function sentenceOf(search: URLSearchParams, inventory: Inventory): Sentence {
  const process = inventory.processes.find((one) => one.key === search.get('process'))?.key ?? 'cut'
  const fitting = meantFor(inventory.materials, process)
  const asked = Number(search.get('material'))
  const material = fitting.find((one) => one.id === asked) ?? fitting[0] ?? null
  const heads = inventory.heads.filter((one) => !one.retired)
  const head = heads.find((one) => one.id === Number(search.get('head'))) ?? heads[0]
  return { process, material, head: head?.id ?? null }
}

/** The address of a sentence. When the process changes and the material is not meant for it, the first that
 * fits is taken; when the name changes, the thickness stays where it can. */
export function addressOf(sentence: { process: ProcessKey; material: number | null; head: number | null }) {
  const parts: Record<string, string> = { process: sentence.process }
  if (sentence.material !== null) parts.material = String(sentence.material)
  if (sentence.head !== null) parts.head = String(sentence.head)
  return parts
}

/** The sheet of another name that is nearest in thickness. */
export function sameThickness(
  materials: Material[],
  name: string,
  thickness: number | null,
): Material | null {
  const sheets = thicknesses(materials, name)
  const distance = (one: Material) => Math.abs((one.thickness_mm ?? 0) - (thickness ?? 0))
  return sheets.sort((a, b) => distance(a) - distance(b))[0] ?? null
}
