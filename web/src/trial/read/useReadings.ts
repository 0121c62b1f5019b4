import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useRef, useState } from 'react'
import { ProblemError, answer, api, whoOf } from '../../api/client'
import { pageKey, trialKey, useForgetLists } from '../../api/hooks'
import type { TrialPageData } from '../../api/types'
import { useProcess, useShop } from '../../shared/ShopContext'
import { backOnline } from '../../shared/online'
import { sayFailed } from '../../shared/toast'
import { shownStep, useShownBurn } from '../shownBurn'
import { keepScores, keptScores } from './keptScores'
import type { Said } from './keptScores'
import { mergedScores, ownScores, scoresOf, scoresOfRow } from './scoring'
import type { Scores } from './scoring'

interface Clash {
  patch: string
  mine: Scores
  theirs: Scores
  who?: string
}

/** By burn: what is being sent of it, by whatever page began that. */
const underWayOf = new Map<number, Promise<void>>()

/** What became of a stroke: it is done with, has to be told patch by patch, or waits for the connection. */
type Sent = 'done' | 'apart' | 'away'

/** The scores of a burned plate: shown with the key that gave them, stored one after the other, undoable. While there is
 * no connection they are kept in this browser, and sent in their order once there is. */
export function useReadings(page: TrialPageData) {
  const { inventory, me } = useShop()
  const { scales } = inventory
  const { outcome } = useProcess(page.process)
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const burn = page.burn
  const shown = useShownBurn()
  const step = shownStep(page)
  const queue = useRef<Promise<void>>(Promise.resolve())
  // By patch: the last stroke about it that is on its way to the server; it outranks what the server said last.
  const [underWay, setUnderWay] = useState<ReadonlyMap<string, Said>>(new Map())
  // The edit each patch has by our own doing; an answer that was asked for earlier may know less.
  const edits = useRef(new Map<string, number>())
  const [clash, setClash] = useState<Clash | null>(null)
  // Strokes the server does not have yet, the first the one that is being sent.
  const pending = useRef<Said[]>([])
  const [away, setAway] = useState(false)
  const left = useRef(false)
  const stopped = useRef(false)
  const wake = useRef<() => void>(() => undefined)
  const [past, setPast] = useState<Said[]>([])

  const readingOf = (patch: string) => page.readings.find((reading) => reading.patch === patch)
  const sentFor = (patch: string) => underWay.get(patch)?.get(patch)
  const scoresFor = (patch: string): Scores => sentFor(patch) ?? scoresOf(readingOf(patch))

  /** Stores what was said, all of it or nothing. */
  const send = useCallback(
    async (said: Said, burnId: number): Promise<Sent> => {
      const key = pageKey(page.id, shown)
      const known = client.getQueryData<TrialPageData>(key)?.readings ?? []
      const readings = [...said].map(([patch, scores]) => {
        const edit = known.find((reading) => reading.patch === patch)?.edit ?? 0
        return { patch, ...scores, edit: Math.max(edit, edits.current.get(patch) ?? 0) }
      })
      try {
        const stored = await answer(
          api.PUT('/api/burns/{id}/readings', {
            params: { path: { id: burnId }, query: { step } },
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
              repeated: stored.repeated,
            },
        )
      } catch (error) {
        if (error instanceof ProblemError && error.status === 0) return 'away'
        const theirs = error instanceof ProblemError && error.status === 409 ? error.current : null
        for (const patch of said.keys()) edits.current.delete(patch)
        await client.invalidateQueries({ queryKey: key })
        if (theirs && said.size > 1) return 'apart'
        const [mine] = [...said]
        if (theirs && mine)
          setClash({ patch: mine[0], mine: mine[1], theirs: scoresOfRow(theirs), who: whoOf(theirs) })
        else sayFailed(error)
      }
      return 'done'
    },
    [client, page.id, shown, step],
  )

  const store = useCallback(
    (said: Said) => {
      if (!burn) return
      setUnderWay(
        (before) => new Map([...before, ...[...said.keys()].map((patch) => [patch, said] as const)]),
      )
      pending.current = [...pending.current, said]
      keepScores({ id: page.id, number: page.number }, burn.id, me.id, pending.current)
      /** Sends until it is through; what waits when somebody leaves the page is sent when they come back. */
      const through = async (stroke: Said): Promise<Sent> => {
        for (;;) {
          const how = await send(stroke, burn.id)
          if (how !== 'away') return how
          setAway(true)
          const back = backOnline()
          wake.current = back.now
          await back.done
          if (left.current) return how
        }
      }
      // One after the other: each carries the edit that the one before it gave.
      queue.current = queue.current.then(async () => {
        if (stopped.current) return
        let how = await through(said)
        if (how === 'apart') for (const one of said) how = await through(new Map([one]))
        stopped.current = how === 'away'
        if (stopped.current) return
        // What was scored again meanwhile is still under way, be it the same score.
        setUnderWay((before) => new Map([...before].filter(([, last]) => last !== said)))
        setAway(false)
        pending.current = pending.current.slice(1)
        keepScores({ id: page.id, number: page.number }, burn.id, me.id, pending.current)
      })
      const last = queue.current
      underWayOf.set(burn.id, last)
      void last.then(() => {
        // Once all is stored, look at the trial afresh: others may have scored, too.
        if (queue.current === last)
          void Promise.all([client.invalidateQueries({ queryKey: trialKey(page.id) }), forgetLists()])
      })
    },
    [burn, client, forgetLists, me.id, page.id, page.number, send],
  )

  // What was said before the page was left or loaded afresh, and never reached the server.
  const begin = useRef(store)
  useEffect(() => {
    begin.current = store
  })
  const burnId = burn?.id
  useEffect(() => {
    left.current = false
    // What was still being sent when the page was left goes on by itself; what is left after that is ours.
    void (burnId === undefined ? null : underWayOf.get(burnId))?.then(restore, restore)
    if (burnId !== undefined && !underWayOf.has(burnId)) restore()
    function restore() {
      if (burnId === undefined || left.current || pending.current.length > 0) return
      for (const said of keptScores(burnId, me.id)) begin.current(said)
    }
    return () => {
      left.current = true
      wake.current()
    }
  }, [burnId, me.id])

  const score = (said: Said) => {
    const before = new Map(
      [...said.keys()].map((id) => [id, sentFor(id) ?? ownScores(readingOf(id), scales)]),
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

  /** After somebody else's score came first: theirs stays, or some parts of mine are stored over it. */
  const settleClash = (parts: ReadonlySet<string>) => {
    setClash(null)
    if (!clash || parts.size === 0) return
    const merged = mergedScores(clash.theirs, clash.mine, parts, outcome)
    score(new Map([[clash.patch, merged]]))
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
    /** How many patches wait for the connection. */
    away: away ? underWay.size : 0,
  }
}
