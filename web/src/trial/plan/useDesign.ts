import { useQuery, useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { ProblemError, post, put } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Design, Preview, TrialPageData } from '../../api/types'
import type { ChosenUnits } from '../../shared/units'
import { settled } from './design'

const SAVE_AFTER_MS = 600

interface History {
  past: Design[]
  now: Design
  future: Design[]
  /** The field of the last edit: typing on in one field is one step of undo. */
  field: string | null
}

/** A design while it is edited: undo, the plate it gives, and keeping it as the trial's draft. */
export function useDesign(page: TrialPageData, units: ChosenUnits) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [history, setHistory] = useState<History>({ past: [], now: page.design, future: [], field: null })
  const [saved, setSaved] = useState<{ design: Design; edit: number }>({
    design: page.design,
    edit: page.edit,
  })
  const [saveError, setSaveError] = useState<unknown>(null)
  const design = history.now

  const preview = useQuery({
    queryKey: ['preview', page.id, design, units],
    queryFn: ({ signal }) => post<Preview>(`/api/trials/${page.id}/preview`, { design, units }, signal),
    initialData: () =>
      design === page.design && page.plate
        ? { plate: page.plate, texts: page.texts, files: page.files }
        : undefined,
    staleTime: Infinity,
    gcTime: 30_000,
    retry: false,
  })
  // While something is being typed that cannot be, the last good plate stays.
  const [good, setGood] = useState<Preview | undefined>(preview.data)
  if (preview.data && preview.data !== good) setGood(preview.data)

  const change = useCallback((next: Design, field: string | null = null) => {
    setHistory((before) => {
      const goesOn = field !== null && field === before.field
      return { past: goesOn ? before.past : [...before.past, before.now], now: next, future: [], field }
    })
  }, [])

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
    if (!preview.data) return
    const trial = preview.data.plate.trial
    setHistory((before) => ({ ...before, now: settled(before.now, trial), field: null }))
  }, [preview.data])

  const unsaved = JSON.stringify(design) !== JSON.stringify(saved.design)
  const keepable = unsaved && preview.isSuccess

  const save = useCallback(
    async (lasting = false): Promise<number> => {
      if (!unsaved) return saved.edit
      try {
        const body = { design, units, edit: saved.edit }
        const fresh = await put<TrialPageData>(`/api/trials/${page.id}/design`, body, lasting)
        setSaved({ design, edit: fresh.edit })
        setSaveError(null)
        client.setQueryData(trialKey(page.id), fresh)
        void forgetLists()
        return fresh.edit
      } catch (error) {
        setSaveError(error)
        throw error
      }
    },
    [client, design, forgetLists, page.id, saved.edit, units, unsaved],
  )

  // The latest `save` for the timer and for leaving the page.
  const latest = useRef({ save, keepable })
  useEffect(() => {
    latest.current = { save, keepable }
  })
  useEffect(() => {
    if (!keepable || saveError) return
    const timer = setTimeout(() => void latest.current.save().catch(() => undefined), SAVE_AFTER_MS)
    return () => clearTimeout(timer)
  }, [design, keepable, saveError])
  useEffect(
    () => () => {
      if (latest.current.keepable) void latest.current.save(true).catch(() => undefined)
    },
    [],
  )

  const errors = useMemo(
    () => (preview.error instanceof ProblemError ? preview.error.byPath() : new Map<string, string>()),
    [preview.error],
  )

  /** After a stale edit: theirs replaces mine, or mine is saved over theirs. */
  const takeTheirs = useCallback(async () => {
    const fresh = await client.fetchQuery<TrialPageData>({ queryKey: trialKey(page.id), staleTime: 0 })
    setHistory((before) => ({
      past: [...before.past, before.now],
      now: fresh.design,
      future: [],
      field: null,
    }))
    setSaved({ design: fresh.design, edit: fresh.edit })
    setSaveError(null)
  }, [client, page.id])
  const keepMine = useCallback(async () => {
    const fresh = await client.fetchQuery<TrialPageData>({ queryKey: trialKey(page.id), staleTime: 0 })
    setSaved({ design: fresh.design, edit: fresh.edit })
    setSaveError(null)
  }, [client, page.id])

  return {
    design,
    good,
    errors,
    failure: preview.error && errors.size === 0 ? preview.error : null,
    change,
    settle,
    undo,
    redo,
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    save,
    unsaved,
    saveError,
    takeTheirs,
    keepMine,
  }
}

export type DesignHandle = ReturnType<typeof useDesign>
