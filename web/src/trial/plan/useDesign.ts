import { queryOptions, useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { ProblemError, answer, api } from '../../api/client'
import { pageKey, trialKey, useForgetLists } from '../../api/hooks'
import type { Design, Preview, TrialPageData } from '../../api/types'
import type { ChosenUnits } from '../../shared/units'
import { useShownBurn } from '../shownBurn'
import { settled } from './design'

const SAVE_AFTER_MS = 600
const NO_ERRORS: ReadonlyMap<string, string> = new Map()

/** Changes the design; edits of one `field` in a row are one step of undo. */
export type Change = (edit: (design: Design) => Design, field?: string | null) => void

interface History {
  past: Design[]
  now: Design
  future: Design[]
  /** The field of the last edit: typing on in one field is one step of undo. */
  field: string | null
}

/** The plate a design would give. */
function previewOf(trial: number, design: Design, units: ChosenUnits) {
  return queryOptions({
    queryKey: ['preview', trial, design, units],
    queryFn: ({ signal }) =>
      answer(
        api.POST('/api/trials/{id}/preview', {
          params: { path: { id: trial } },
          body: { design, units },
          signal,
        }),
      ),
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  })
}

/** A design while it is edited: undo, the plate it gives, and keeping it as the trial's draft. */
export function useDesign(page: TrialPageData, units: ChosenUnits) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [history, setHistory] = useState<History>({ past: [], now: page.design, future: [], field: null })
  const [saved, setSaved] = useState(() => JSON.stringify(page.design))
  const [saveError, setSaveError] = useState<unknown>(null)
  const design = history.now

  const preview = useQuery({
    ...previewOf(page.id, design, units),
    initialData: () =>
      design === page.design && page.plate
        ? { plate: page.plate, texts: page.texts, files: page.files, against: page.against }
        : undefined,
  })
  // While something is being typed that cannot be, the last good plate stays.
  const [good, setGood] = useState<Preview | undefined>(preview.data)
  if (preview.data && preview.data !== good) setGood(preview.data)

  // The latest design for handlers, so that these stay the same from render to render.
  const shown = useShownBurn()
  const current = useRef(design)
  useLayoutEffect(() => {
    current.current = design
  }, [design])

  // A field was left whose text is not a number yet.
  const owed = useRef(false)
  /** What was typed becomes the numbers that a design's plan understood, unless other changes come before the plan. */
  const settleBy = useCallback(
    (asked: Design) => {
      const take = (planned: Preview) => {
        if (current.current !== asked) return
        owed.current = false
        setHistory((before) =>
          before.now === asked
            ? { ...before, now: settled(before.now, planned.plate.trial), field: null }
            : before,
        )
      }
      const query = previewOf(page.id, asked, units)
      const planned = client.getQueryData<Preview>(query.queryKey)
      if (planned) take(planned)
      // Whoever leaves a field faster than the server plans finds it settled a moment later; what cannot be planned
      // stays as it was typed, with its sentence beside it.
      else void client.fetchQuery(query).then(take, () => undefined)
    },
    [client, page.id, units],
  )

  const change = useCallback<Change>(
    (edit, field = null) => {
      const next = edit(current.current)
      current.current = next
      // The server begins while the screen still draws what was typed.
      void client.prefetchQuery(previewOf(page.id, next, units))
      // A button beside a field that was left owes it its number still; typing does so when it is left itself.
      if (owed.current && field === null) settleBy(next)
      setHistory((before) => {
        const goesOn = field !== null && field === before.field
        return { past: goesOn ? before.past : [...before.past, before.now], now: next, future: [], field }
      })
    },
    [client, page.id, settleBy, units],
  )

  const undo = useCallback(() => {
    setHistory((before) => {
      const last = before.past.at(-1)
      if (!last) return before
      return {
        past: before.past.slice(0, -1),
        now: last,
        future: [before.now, ...before.future],
        field: null,
      }
    })
  }, [])

  const redo = useCallback(() => {
    setHistory((before) => {
      const [next, ...future] = before.future
      if (!next) return before
      return { past: [...before.past, before.now], now: next, future, field: null }
    })
  }, [])

  /** Leaving a field: what was typed becomes the number it was understood as. */
  const settle = useCallback(() => {
    owed.current = true
    settleBy(current.current)
  }, [settleBy])

  const unsaved = JSON.stringify(design) !== saved
  const keepable = unsaved && preview.isSuccess

  const kept = useRef({ text: saved, edit: page.edit })
  const queue = useRef<Promise<unknown>>(Promise.resolve())
  const keep = useCallback((design: Design, edit: number) => {
    kept.current = { text: JSON.stringify(design), edit }
    setSaved(kept.current.text)
    setSaveError(null)
  }, [])

  /** Keeps the latest design, one save after the other: each is made from the edit the one before it gave. */
  const save = useCallback(
    (lasting = false): Promise<number> => {
      const mine = queue.current.then(async () => {
        const design = current.current
        if (JSON.stringify(design) === kept.current.text) return kept.current.edit
        try {
          const body = { design, units, edit: kept.current.edit }
          const fresh = await answer(
            api.PUT('/api/trials/{id}/design', {
              params: { path: { id: page.id } },
              body,
              keepalive: lasting,
            }),
          )
          keep(design, fresh.edit)
          if (shown === null) client.setQueryData(pageKey(page.id, null), fresh)
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
    [client, forgetLists, keep, page.id, shown, units],
  )

  useEffect(() => {
    if (!keepable || saveError) return
    const timer = setTimeout(() => void save().catch(() => undefined), SAVE_AFTER_MS)
    return () => clearTimeout(timer)
  }, [design, keepable, saveError, save])
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

  const errors = useMemo(
    () => (preview.error instanceof ProblemError ? preview.error.byPath() : NO_ERRORS),
    [preview.error],
  )

  const theirs = useCallback(
    () => client.fetchQuery<TrialPageData>({ queryKey: pageKey(page.id, shown), staleTime: 0 }),
    [client, page.id, shown],
  )
  /** After a stale edit: theirs replaces mine, or mine is saved over theirs. */
  const takeTheirs = useCallback(async () => {
    const fresh = await theirs()
    setHistory((before) => ({
      past: [...before.past, before.now],
      now: fresh.design,
      future: [],
      field: null,
    }))
    keep(fresh.design, fresh.edit)
  }, [keep, theirs])
  const keepMine = useCallback(async () => {
    const fresh = await theirs()
    keep(fresh.design, fresh.edit)
  }, [keep, theirs])

  // What somebody else kept meanwhile is taken over where nothing of mine would be lost by it.
  useEffect(() => {
    if (page.edit <= kept.current.edit) return
    if (JSON.stringify(current.current) !== kept.current.text) return
    current.current = page.design
    setHistory((before) => ({
      past: [...before.past, before.now],
      now: page.design,
      future: [],
      field: null,
    }))
    keep(page.design, page.edit)
  }, [keep, page.design, page.edit])

  const designNow = useCallback(() => current.current, [])

  const failure = preview.error && errors.size === 0 ? preview.error : null
  const canUndo = history.past.length > 0
  const canRedo = history.future.length > 0
  // One object until something about the editing changes: a new plate alone redraws nothing that only edits.
  const handle = useMemo(
    () => ({
      design,
      designNow,
      errors,
      failure,
      change,
      settle,
      undo,
      redo,
      canUndo,
      canRedo,
      save,
      unsaved,
      saveError,
      takeTheirs,
      keepMine,
    }),
    [
      design,
      designNow,
      errors,
      failure,
      change,
      settle,
      undo,
      redo,
      canUndo,
      canRedo,
      save,
      unsaved,
      saveError,
      takeTheirs,
      keepMine,
    ],
  )
  return { handle, good }
}

export type DesignHandle = ReturnType<typeof useDesign>['handle']
