import { useMutation } from '@tanstack/react-query'
import { useForget } from '../api/stale'
import { answer, api } from '../api/client'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import type { Values } from './fields'

export type Kind = 'machine' | 'head' | 'material' | 'lot' | 'piece'

/** Undo for what was just done: the change is taken back by its line of the log. */
function useTakeBack() {
  const forget = useForget()
  return useMutation({
    mutationFn: async ({ kind, id }: { kind: Kind; id: number }) => {
      const { changes } = await answer(
        api.GET('/api/changes', { params: { query: { subject: kind, id, most: 1 } } }),
      )
      const [line] = changes
      if (line) await answer(api.POST('/api/changes/{id}/take-back', { params: { path: { id: line.id } } }))
    },
    onSuccess: (_, { kind }) => forget(kind),
    onError: sayFailed,
  })
}

interface Added {
  facts: Values
  units: Record<string, string>
  heads?: Values[]
}

/** Each kind has an address of its own. */
function add(kind: Kind, { heads, ...body }: Added): Promise<{ id: number }> {
  if (kind === 'machine') return answer(api.POST('/api/machines', { body: { ...body, heads: heads ?? [] } }))
  if (kind === 'head') return answer(api.POST('/api/heads', { body }))
  if (kind === 'material') return answer(api.POST('/api/materials', { body }))
  if (kind === 'lot') return answer(api.POST('/api/lots', { body }))
  return answer(api.POST('/api/pieces', { body }))
}

type Changed = Omit<Added, 'heads'> & { edit: number; retired: boolean }

function change(kind: Kind, id: number, body: Changed): Promise<{ id: number }> {
  const asked = { params: { path: { id } }, body }
  if (kind === 'machine') return answer(api.PUT('/api/machines/{id}', asked))
  if (kind === 'head') return answer(api.PUT('/api/heads/{id}', asked))
  if (kind === 'material') return answer(api.PUT('/api/materials/{id}', asked))
  if (kind === 'lot') return answer(api.PUT('/api/lots/{id}', asked))
  return answer(api.PUT('/api/pieces/{id}', asked))
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
  const forget = useForget()
  const takeBack = useTakeBack()
  return useMutation({
    mutationFn: ({ facts, heads, row, retired = false }: Save) =>
      row
        ? change(kind, row.id, { edit: row.edit, facts, units, retired })
        : add(kind, { facts, units, heads }),
    onSuccess: async ({ id }, { row, retired }) => {
      await forget(kind)
      const said = retired ? `${title} is retired.` : `${title || 'It'} is kept.`
      sayDone(said, row ? () => takeBack.mutate({ kind, id }) : undefined)
    },
  })
}
