import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useRef, useState } from 'react'
import { ProblemError, put } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Reading, TrialPageData } from '../../api/types'
import { sayFailed } from '../../shared/toast'
import { scoresOf } from './scoring'
import type { Scores } from './scoring'

interface Clash {
  patch: string
  mine: Scores
  theirs: Scores
}

/** The scores of a burned plate: shown with the key that gave them, stored one after the other, undoable. */
export function useReadings(page: TrialPageData) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const burn = page.burns[0]
  const queue = useRef<Promise<void>>(Promise.resolve())
  // Scores on their way to the server; they outrank what the server said last.
  const [underWay, setUnderWay] = useState<ReadonlyMap<string, Scores>>(new Map())
  // The edit each patch has by our own doing; an answer that was asked for earlier may know less.
  const edits = useRef(new Map<string, number>())
  const [clash, setClash] = useState<Clash | null>(null)
  const [past, setPast] = useState<{ patch: string; scores: Scores }[]>([])

  const scoresFor = (patch: string): Scores =>
    underWay.get(patch) ?? scoresOf(page.readings.find((reading) => reading.patch === patch))

  const arrived = useCallback((patch: string, scores: Scores) => {
    setUnderWay((before) => {
      // Somebody may have scored it again meanwhile: that one is still under way.
      if (before.get(patch) !== scores) return before
      const after = new Map(before)
      after.delete(patch)
      return after
    })
  }, [])

  const store = useCallback(
    (patch: string, scores: Scores) => {
      if (!burn) return
      setUnderWay((before) => new Map(before).set(patch, scores))
      // One after the other: each carries the edit that the one before it gave.
      queue.current = queue.current.then(async () => {
        const key = trialKey(page.id)
        try {
          const known = client
            .getQueryData<TrialPageData>(key)
            ?.readings.find((reading) => reading.patch === patch)
          const url = `/api/burns/${burn.id}/patches/${patch}/reading`
          const edit = Math.max(known?.edit ?? 0, edits.current.get(patch) ?? 0)
          const stored = await put<Reading>(url, { ...scores, edit }, true)
          edits.current.set(patch, stored.edit)
          // An answer still on its way was given before this score; it must not show the old one again.
          await client.cancelQueries({ queryKey: key })
          client.setQueryData<TrialPageData>(
            key,
            (before) =>
              before && {
                ...before,
                readings: [...before.readings.filter((reading) => reading.patch !== patch), stored],
              },
          )
        } catch (error) {
          const theirs = error instanceof ProblemError && error.status === 409 ? error.current : null
          if (theirs) setClash({ patch, mine: scores, theirs: scoresOf(theirs as unknown as Reading) })
          else sayFailed(error)
          edits.current.delete(patch)
          await client.invalidateQueries({ queryKey: key })
        } finally {
          arrived(patch, scores)
        }
      })
      const last = queue.current
      void last.then(() => {
        // Once all is stored, look at the trial afresh: others may have scored, too.
        if (queue.current === last)
          void Promise.all([client.invalidateQueries({ queryKey: trialKey(page.id) }), forgetLists()])
      })
    },
    [arrived, burn, client, forgetLists, page.id],
  )

  const score = (patch: string, scores: Scores) => {
    setPast((before) => [...before, { patch, scores: scoresFor(patch) }])
    store(patch, scores)
  }

  /** Takes the last score back and tells which patch it was about. */
  const undo = (): string | null => {
    const last = past.at(-1)
    if (!last) return null
    setPast((before) => before.slice(0, -1))
    store(last.patch, last.scores)
    return last.patch
  }

  /** After somebody else's score came first: theirs stays, or mine is stored over it. */
  const settleClash = (whose: 'theirs' | 'mine') => {
    setClash(null)
    if (clash && whose === 'mine') score(clash.patch, clash.mine)
  }

  return { clash, settleClash, scoresFor, score, undo, canUndo: past.length > 0, waiting: underWay.size > 0 }
}
