import { useMutation, useQueryClient } from '@tanstack/react-query'
import { get, post, put } from '../api/client'
import type { Change } from '../api/types'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import type { Values } from './fields'

export type Kind = 'machine' | 'head' | 'material' | 'lot' | 'piece'

/** Everything that is drawn from the shop's tables is out of date after one of them changed. */
function useForgetShop() {
  const client = useQueryClient()
  return () =>
    Promise.all(['shop', 'ask', 'map', 'changes'].map((key) => client.invalidateQueries({ queryKey: [key] })))
}

/** Undo for what was just done: the change is taken back by its line of the log. */
function useTakeBack() {
  const forget = useForgetShop()
  return useMutation({
    mutationFn: async ({ kind, id }: { kind: Kind; id: number }) => {
      const { changes } = await get<{ changes: Change[] }>(`/api/changes?subject=${kind}&id=${id}&most=1`)
      const [line] = changes
      if (line) await post(`/api/changes/${line.id}/take-back`, {})
    },
    onSuccess: () => forget(),
    onError: sayFailed,
  })
}

interface Save {
  facts: Values
  heads?: Values[]
  /** Null for something new. */
  row: { id: number; edit: number } | null
  retired?: boolean
}

/** Adds or changes a machine, head, material, lot or piece; figures may be typed with their unit. */
export function useSave(kind: Kind, title: string) {
  const { units } = useShop()
  const forget = useForgetShop()
  const takeBack = useTakeBack()
  return useMutation({
    mutationFn: ({ facts, heads, row, retired = false }: Save) =>
      row
        ? put<{ id: number }>(`/api/${kind}s/${row.id}`, { edit: row.edit, facts, units, retired })
        : post<{ id: number }>(`/api/${kind}s`, { facts, units, ...(heads && { heads }) }),
    onSuccess: async ({ id }, { row, retired }) => {
      await forget()
      const said = retired ? `${title} is retired.` : `${title || 'It'} is kept.`
      sayDone(said, row ? () => takeBack.mutate({ kind, id }) : undefined)
    },
  })
}
