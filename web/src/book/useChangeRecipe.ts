import { useMutation, useQueryClient } from '@tanstack/react-query'
import { answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { RecipeLink, RecipePageData, Standing } from '../api/types'

export interface RecipeChange {
  standing?: Standing
  purpose?: string
  note?: string
  conditions?: string
  supplier_code?: string
  pinned?: string
  good_enough?: string
  links?: RecipeLink[]
  superseded_by?: number | null
}

/** Changes what the book says, made from the version one sees. */
export function useChangeRecipe(page: RecipePageData) {
  const fresh = useFreshRecipe(page.id)
  return useMutation({
    mutationFn: ({ edit = page.edit, ...change }: RecipeChange & { edit?: number }) =>
      answer(api.PUT('/api/recipes/{id}', { params: { path: { id: page.id } }, body: { ...change, edit } })),
    onSuccess: fresh,
  })
}

/** Lets the book say what it said in an earlier version. */
export function useRestoreRecipe(page: RecipePageData) {
  const fresh = useFreshRecipe(page.id)
  return useMutation({
    mutationFn: (version: number) =>
      answer(
        api.POST('/api/recipes/{id}/restore', {
          params: { path: { id: page.id } },
          body: { edit: page.edit, version },
        }),
      ),
    onSuccess: fresh,
  })
}

function useFreshRecipe(id: number) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  return (page: RecipePageData) => {
    client.setQueryData(['recipe', id], page)
    void forgetLists()
  }
}
