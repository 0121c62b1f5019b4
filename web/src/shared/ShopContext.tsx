import { createContext, useCallback, useContext, useMemo } from 'react'
import type { Head, Inventory, Me, Parameter, Process, ProcessKey, Scale } from '../api/types'
import { inChosenUnits } from './units'
import type { ChosenUnits } from './units'

/** What every page needs: the shop's tables, who I am, my units. */
export interface ShopHere {
  inventory: Inventory
  me: Me
  units: ChosenUnits
  setUnit: (quantity: string, symbol: string) => void
}

export const ShopContext = createContext<ShopHere | null>(null)

export function useShop(): ShopHere {
  const here = useContext(ShopContext)
  if (!here)
    throw new Error('useShop needs a ShopContext above it; App provides one once the shop is loaded.')
  return here
}

export function useProcess(key: ProcessKey): Process {
  const { inventory } = useShop()
  const process = inventory.processes.find((one) => one.key === key)
  if (!process) throw new Error(`no process ${key}`)
  return process
}

/** What can be read of the elements of a process; of patches of some shapes there is more. */
export function useScales(process: Process, shape?: string): Scale[] {
  const { scales } = useShop().inventory
  return useMemo(
    () =>
      scales.filter(
        ({ processes, shapes }) =>
          processes.includes(process.key) &&
          (shapes.length === 0 || (shape !== undefined && shapes.includes(shape))),
      ),
    [scales, process, shape],
  )
}

interface Worded {
  words: string[]
  question: string
}

/** What the degrees of an outcome are called, and how one asks for them. Some marks are lighter than their ground, or of
 * another colour: `of` says it of a patch of which that was read. */
export function useOutcomeWords(process: Process, materialId: number) {
  const { scales, materials } = useShop().inventory
  const usual = materials.find((one) => one.id === materialId)?.mark
  return useMemo(() => {
    const scale = scales.find((one) => one.key === process.outcome)
    if (!scale) throw new Error(`no scale ${process.outcome}`)
    const turned = scales.find((one) => one.key === 'turned')
    const ofMark = (mark: string | undefined): Worded => {
      const { lighter_words: lighter, coloured_words: coloured } = scale
      if (mark === 'lighter' && lighter.length > 0)
        return { words: lighter, question: scale.lighter_question }
      if (mark === 'coloured' && coloured.length > 0)
        return { words: coloured, question: scale.coloured_question }
      return { words: scale.words, question: scale.question }
    }
    const of = (values: Record<string, number | string | null> | undefined) =>
      ofMark(turned?.words[Number(values?.turned) || -1] ?? usual)
    return { ...ofMark(usual), of }
  }, [scales, process, usual])
}

/** What there is to set on a head for a process, levels only as far as it has them; the same list from render to render. */
export function useSettingsOn(head: number, process: ProcessKey): Parameter[] {
  const { parameters, settings_on, heads, forms } = useShop().inventory
  const keys = settings_on[head]?.[process]
  const machine = heads.find((one) => one.id === head)?.machine_facts
  const levels = forms.airs.find((one) => one.key === machine?.air)?.levels
  return useMemo(
    () =>
      parameters
        .filter((one) => keys?.includes(one.key))
        .map((one) => withLevels(one, machine))
        .map((one) =>
          one.words.length > 0 && !machine?.air_levels?.length
            ? { ...one, words: one.words.slice(0, levels) }
            : one,
        ),
    [parameters, keys, levels, machine],
  )
}

/** A setting whose levels are called as they are on a machine. */
function withLevels(parameter: Parameter, machine: Head['machine_facts'] | undefined): Parameter {
  const named = machine?.air_levels ?? []
  return parameter.key === 'air_level' && named.length > 0
    ? { ...parameter, words: ['off', ...named.map(({ name }) => name)] }
    : parameter
}

/** What is shown here is about this head: levels are called as they are on it. */
export const OnHead = createContext<number | null>(null)

/** Says a sentence of the server in my units. */
export function useInMyUnits(): (sentence: string) => string {
  const { inventory, units } = useShop()
  return useMemo(() => {
    const names = inventory.materials.map((one) => one.title)
    return (sentence) => inChosenUnits(sentence, inventory.units, units, names)
  }, [inventory, units])
}

/** Every setting, its levels called as they are on a head: the one a page is about, unless another is named. */
export function useParametersOn(head?: number | null): Parameter[] {
  const { parameters, heads } = useShop().inventory
  const about = useContext(OnHead)
  const machine = heads.find((one) => one.id === (head ?? about))?.machine_facts
  return useMemo(() => parameters.map((one) => withLevels(one, machine)), [parameters, machine])
}

export function useParameter(head?: number | null): (key: string) => Parameter {
  const parameters = useParametersOn(head)
  return useCallback(
    (key) => {
      const parameter = parameters.find((one) => one.key === key)
      if (!parameter) throw new Error(`no parameter ${key}`)
      return parameter
    },
    [parameters],
  )
}
