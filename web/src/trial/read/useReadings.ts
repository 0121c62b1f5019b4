import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useRef, useState } from 'react'
import { put } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Reading, TrialPageData } from '../../api/types'
import { sayFailed } from '../../shared/toast'
import { scoresOf } from './scoring'
import type { Scores } from './scoring'

/** The scores of a burned plate: shown at once, stored one after the other, undoable. */
export function useReadings(page: TrialPageData) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const burn = page.burns[0]
  const queue = useRef<Promise<void>>(Promise.resolve())
  const [past, setPast] = useState<{ patch: string; scores: Scores }[]>([])
  const [waiting, setWaiting] = useState(0)

  const find = useCallback(
    (patch: string) => page.readings.find((reading) => reading.patch === patch),
    [page.readings],
  )

  const show = useCallback(
    (patch: string, change: (reading: Reading | undefined) => Reading) => {
      client.setQueryData<TrialPageData>(trialKey(page.id), (before) => {
        if (!before) return before
        const others = before.readings.filter((reading) => reading.patch !== patch)
        return {
          ...before,
          readings: [...others, change(before.readings.find((one) => one.patch === patch))],
        }
      })
    },
    [client, page.id],
  )

  const store = useCallback(
    (patch: string, scores: Scores) => {
      if (!burn) return
      show(patch, (before) => ({
        ...(before ?? { edit: 0, at: '', by_name: '', patch, face: page.face }),
        ...scores,
      }))
      setWaiting((count) => count + 1)
      // One after the other: each carries the edit that the one before it gave.
      queue.current = queue.current.then(async () => {
        try {
          const current = client.getQueryData<TrialPageData>(trialKey(page.id))
          const edit = current?.readings.find((reading) => reading.patch === patch)?.edit ?? 0
          const stored = await put<Reading>(`/api/burns/${burn.id}/patches/${patch}/reading`, {
            ...scores,
            edit,
          })
          // Somebody may have typed on meanwhile: take the new edit, keep what is shown.
          show(patch, (before) => ({ ...stored, ...(before ? scoresOf(before) : {}) }))
        } catch (error) {
          sayFailed(error)
          await client.invalidateQueries({ queryKey: trialKey(page.id) })
        } finally {
          setWaiting((count) => count - 1)
          void forgetLists()
        }
      })
    },
    [burn, client, forgetLists, page.face, page.id, show],
  )

  const score = useCallback(
    (patch: string, scores: Scores) => {
      setPast((before) => [...before, { patch, scores: scoresOf(find(patch)) }])
      store(patch, scores)
    },
    [find, store],
  )

  /** Takes the last score back and tells which patch it was about. */
  const undo = useCallback((): string | null => {
    const last = past.at(-1)
    if (!last) return null
    setPast((before) => before.slice(0, -1))
    store(last.patch, last.scores)
    return last.patch
  }, [past, store])

  return { find, score, undo, canUndo: past.length > 0, waiting: waiting > 0 }
}
