import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useRef, useState } from 'react'
import { ProblemError, answer, api } from '../../api/client'
import { pageKey, trialKey, useForgetLists } from '../../api/hooks'
import type { TrialPageData } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { useShownBurn } from '../shownBurn'
import { ownScores, scoresOf, scoresOfRow } from './scoring'
import type { Scores } from './scoring'

interface Clash {
  patch: string
  mine: Scores
  theirs: Scores
}

/** Scores by patch, said at one stroke. */
type Said = ReadonlyMap<string, Scores>

/** The scores of a burned plate: shown with the key that gave them, stored one after the other, undoable. */
export function useReadings(page: TrialPageData) {
  const { scales } = useShop().inventory
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const burn = page.burn
  const shown = useShownBurn()
  const queue = useRef<Promise<void>>(Promise.resolve())
  // Scores on their way to the server; they outrank what the server said last.
  const [underWay, setUnderWay] = useState<Said>(new Map())
  // The edit each patch has by our own doing; an answer that was asked for earlier may know less.
  const edits = useRef(new Map<string, number>())
  const [clash, setClash] = useState<Clash | null>(null)
  const [past, setPast] = useState<Said[]>([])

  const readingOf = (patch: string) => page.readings.find((reading) => reading.patch === patch)
  const scoresFor = (patch: string): Scores => underWay.get(patch) ?? scoresOf(readingOf(patch))

  const arrived = useCallback((said: Said) => {
    setUnderWay((before) => {
      const after = new Map(before)
      for (const [patch, scores] of said) {
        // Somebody may have scored it again meanwhile: that one is still under way.
        if (before.get(patch) === scores) after.delete(patch)
      }
      return after
    })
  }, [])

  /** Stores what was said, all of it or nothing; whether it has to be told one by one, since something clashed. */
  const send = useCallback(
    async (said: Said, burnId: number): Promise<boolean> => {
      const key = pageKey(page.id, shown)
      const known = client.getQueryData<TrialPageData>(key)?.readings ?? []
      const readings = [...said].map(([patch, scores]) => {
        const edit = known.find((reading) => reading.patch === patch)?.edit ?? 0
        return { patch, ...scores, edit: Math.max(edit, edits.current.get(patch) ?? 0) }
      })
      try {
        const stored = await answer(
          api.PUT('/api/burns/{id}/readings', {
            params: { path: { id: burnId } },
            body: { readings },
            keepalive: true,
          }),
        )
        for (const reading of stored.readings) edits.current.set(reading.patch, reading.edit)
        // An answer still on its way was given before this score; it must not show the old one again.
        await client.cancelQueries({ queryKey: key })
        client.setQueryData<TrialPageData>(
          key,
          (before) =>
            before && {
              ...before,
              readings: [...before.readings.filter(({ patch }) => !said.has(patch)), ...stored.readings],
            },
        )
      } catch (error) {
        const theirs = error instanceof ProblemError && error.status === 409 ? error.current : null
        for (const patch of said.keys()) edits.current.delete(patch)
        await client.invalidateQueries({ queryKey: key })
        if (theirs && said.size > 1) return true
        const [mine] = [...said]
        if (theirs && mine) setClash({ patch: mine[0], mine: mine[1], theirs: scoresOfRow(theirs) })
        else sayFailed(error)
      } finally {
        arrived(said)
      }
      return false
    },
    [arrived, client, page.id, shown],
  )

  const store = useCallback(
    (said: Said) => {
      if (!burn) return
      setUnderWay((before) => new Map([...before, ...said]))
      // One after the other: each carries the edit that the one before it gave.
      queue.current = queue.current.then(async () => {
        const apart = await send(said, burn.id)
        if (apart) for (const one of said) await send(new Map([one]), burn.id)
      })
      const last = queue.current
      void last.then(() => {
        // Once all is stored, look at the trial afresh: others may have scored, too.
        if (queue.current === last)
          void Promise.all([client.invalidateQueries({ queryKey: trialKey(page.id) }), forgetLists()])
      })
    },
    [burn, client, forgetLists, page.id, send],
  )

  const score = (said: Said) => {
    const before = new Map(
      [...said.keys()].map((id) => [id, underWay.get(id) ?? ownScores(readingOf(id), scales)]),
    )
    setPast((all) => [...all, before])
    store(said)
  }

  /** Takes the last stroke back and tells which patch it was about. */
  const undo = (): string | null => {
    const last = past.at(-1)
    if (!last) return null
    setPast((before) => before.slice(0, -1))
    store(last)
    return [...last.keys()][0] ?? null
  }

  /** After somebody else's score came first: theirs stays, or mine is stored over it. */
  const settleClash = (whose: 'theirs' | 'mine') => {
    setClash(null)
    if (clash && whose === 'mine') score(new Map([[clash.patch, clash.mine]]))
  }

  return {
    clash,
    settleClash,
    readingOf,
    scoresFor,
    score,
    undo,
    canUndo: past.length > 0,
    waiting: underWay.size > 0,
  }
}
