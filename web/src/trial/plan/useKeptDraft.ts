import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import type { RefObject } from 'react'
import { answer, api } from '../../api/client'
import { pageKey, trialKey, useForgetLists } from '../../api/hooks'
import type { Design, TrialPageData } from '../../api/types'
import type { ChosenUnits } from '../../shared/units'
import { useShownBurn } from '../shownBurn'

const SAVE_AFTER_MS = 600

interface Draft {
  page: TrialPageData
  units: ChosenUnits
  design: Design
  /** The latest design, for what happens later. */
  current: RefObject<Design>
  /** Whether the design can be planned: only such a one is kept. */
  canBe: boolean
}

/** Keeps the latest design as the trial's draft, one save after the other: each is made from the edit the one before
 * it gave. */
export function useKeptDraft({ page, units, design, current, canBe }: Draft) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const shown = useShownBurn()
  const [saved, setSaved] = useState(() => JSON.stringify(page.design))
  const [saveError, setSaveError] = useState<unknown>(null)
  const unsaved = JSON.stringify(design) !== saved
  const kept = useRef({ text: saved, edit: page.edit })
  const queue = useRef<Promise<unknown>>(Promise.resolve())
  const keep = useCallback((design: Design, edit: number) => {
    kept.current = { text: JSON.stringify(design), edit }
    setSaved(kept.current.text)
    setSaveError(null)
  }, [])

  const save = useCallback(
    (lasting = false): Promise<number> => {
      const mine = queue.current.then(async () => {
        const design = current.current
        if (JSON.stringify(design) === kept.current.text) return kept.current.edit
        try {
          const fresh = await answer(
            api.PUT('/api/trials/{id}/design', {
              params: { path: { id: page.id } },
              body: { design, units, edit: kept.current.edit },
              keepalive: lasting,
            }),
          )
          keep(design, fresh.edit)
          if (shown.burn === null) client.setQueryData(pageKey(page.id, shown), fresh)
          else void client.invalidateQueries({ queryKey: trialKey(page.id) })
          void forgetLists()
          return fresh.edit
        } catch (error) {
          setSaveError(error)
          throw error
        }
      })
      queue.current = mine.catch(() => undefined)
      return mine
    },
    [client, current, forgetLists, keep, page.id, shown, units],
  )

  useEffect(() => {
    if (!unsaved || !canBe || saveError) return
    const timer = setTimeout(() => void save().catch(() => undefined), SAVE_AFTER_MS)
    return () => clearTimeout(timer)
  }, [design, unsaved, canBe, saveError, save])
  const leave = useRef(save)
  useEffect(() => {
    leave.current = save
  })
  useEffect(
    () => () => {
      void leave.current(true).catch(() => undefined)
    },
    [],
  )

  /** The trial as it is with the server now. */
  const theirs = useCallback(
    () => client.fetchQuery<TrialPageData>({ queryKey: pageKey(page.id, shown), staleTime: 0 }),
    [client, page.id, shown],
  )
  /** Whether somebody else kept something newer, and nothing of mine would be lost by taking it over. */
  const mayTakeOver = useCallback(
    (edit: number) => edit > kept.current.edit && JSON.stringify(current.current) === kept.current.text,
    [current],
  )
  return { save, saveError, unsaved, keep, theirs, mayTakeOver }
}
