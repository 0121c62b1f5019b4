import { useQueryClient } from '@tanstack/react-query'
import { useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react'
import { ProblemError } from '../../api/client'
import type { Design, Preview, TrialPageData } from '../../api/types'
import { useInMyUnits } from '../../shared/ShopContext'
import type { ChosenUnits } from '../../shared/units'
import { settled } from './design'
import { mergedDesign } from './designDifferences'
import { begun, edited, redone, replaced, understood, undone } from './history'
import { previewOf, usePreview } from './preview'
import { useKeptDraft } from './useKeptDraft'

const NO_ERRORS: ReadonlyMap<string, string> = new Map()

/** Changes the design; edits of one `field` in a row are one step of undo. */
export type Change = (edit: (design: Design) => Design, field?: string | null) => void

/** A design while it is edited: undo, the plate it gives, and keeping it as the trial's draft. */
export function useDesign(page: TrialPageData, units: ChosenUnits) {
  const client = useQueryClient()
  const [history, setHistory] = useState(() => begun(page.design))
  const design = history.now
  const { preview, good } = usePreview(page, design, units)

  // The latest design for handlers, so that these stay the same from render to render.
  const current = useRef(design)
  useLayoutEffect(() => {
    current.current = design
  }, [design])
  const draft = useKeptDraft({ page, units, design, current, canBe: preview.isSuccess })
  const { keep, theirs, mayTakeOver, save, saveError, unsaved } = draft

  // A field was left whose text is not a number yet.
  const owed = useRef(false)
  /** What was typed becomes the numbers that a design's plan understood, unless other changes come before the plan. */
  const settleBy = useCallback(
    (asked: Design) => {
      const take = (planned: Preview) => {
        if (current.current !== asked) return
        owed.current = false
        const numbers = settled(asked, planned.plate.trial)
        // What is changed next, even before this is drawn, is changed from the numbers.
        current.current = numbers
        setHistory((before) => (before.now === asked ? understood(before, numbers) : before))
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
      setHistory((before) => edited(before, next, field))
    },
    [client, page.id, settleBy, units],
  )
  const undo = useCallback(() => setHistory(undone), [])
  const redo = useCallback(() => setHistory(redone), [])

  /** Leaving a field: what was typed becomes the number it was understood as. */
  const settle = useCallback(() => {
    owed.current = true
    settleBy(current.current)
  }, [settleBy])

  /** After a stale edit: theirs replaces mine, or some parts of mine are saved over theirs. */
  const takeTheirs = useCallback(async () => {
    const fresh = await theirs()
    setHistory((before) => replaced(before, fresh.design))
    keep(fresh.design, fresh.edit)
  }, [keep, theirs])
  const keepMine = useCallback(
    async (parts: ReadonlySet<string>) => {
      const fresh = await theirs()
      setHistory((before) => replaced(before, mergedDesign(fresh.design, before.now, parts)))
      keep(fresh.design, fresh.edit)
    },
    [keep, theirs],
  )

  // What somebody else kept meanwhile is taken over where nothing of mine would be lost by it.
  useOthersDraft(page, mayTakeOver, (fresh, edit) => {
    current.current = fresh
    setHistory((before) => replaced(before, fresh))
    keep(fresh, edit)
  })

  const designNow = useCallback(() => current.current, [])
  const inMyUnits = useInMyUnits()
  const errors = useMemo(() => {
    if (!(preview.error instanceof ProblemError)) return NO_ERRORS
    return new Map([...preview.error.byPath()].map(([path, sentence]) => [path, inMyUnits(sentence)]))
  }, [preview.error, inMyUnits])
  const failure = preview.error && errors.size === 0 ? preview.error : null
  const canUndo = history.past.length > 0
  const canRedo = history.future.length > 0
  const edit = useMemo(
    () => ({ designNow, change, settle, undo, redo, save, takeTheirs, keepMine }),
    [designNow, change, settle, undo, redo, save, takeTheirs, keepMine],
  )
  // One object until something about the editing changes: a new plate alone redraws nothing that only edits.
  const handle = useMemo(
    () => ({ ...edit, design, errors, failure, canUndo, canRedo, unsaved, saveError }),
    [edit, design, errors, failure, canUndo, canRedo, unsaved, saveError],
  )
  return { handle, good }
}

/** Tells of a draft that somebody else kept. */
function useOthersDraft(
  { design, edit }: TrialPageData,
  may: (edit: number) => boolean,
  take: (design: Design, edit: number) => void,
) {
  const latest = useRef(take)
  useEffect(() => {
    latest.current = take
  })
  useEffect(() => {
    if (may(edit)) latest.current(design, edit)
  }, [design, edit, may])
}

export type DesignHandle = ReturnType<typeof useDesign>['handle']
