import { useIsMutating } from '@tanstack/react-query'
import { createContext, useContext, useState } from 'react'
import type { PhotoScore, TrialPageData } from '../../api/types'
import type { PickEvent } from '../../plate/Plate'
import { useOutcomeWords, useProcess, useScales, useShop } from '../../shared/ShopContext'
import { outcomeOf } from '../../shared/outcome'
import { useActivePatch } from '../useActivePatch'
import { useNotBurned } from '../useNotBurned'
import { changedAs, isScored, next, walk } from './scoring'
import type { Scores } from './scoring'
import { agreed, isOverruled, nextWanted, wantEye } from './suggestions'
import { useFace } from './useFace'
import { usePhotosSay } from './usePhotosSay'
import { useReadings } from './useReadings'

const NONE: ReadonlySet<string> = new Set()

/** By what it is known that somebody is just saying how the piece of a burn is treated. */
export const treatmentKey = (burn: number | undefined) => ['treatment', burn] as const

/** Reading a burned plate: where one is on it, what was said of each patch, and everything one can say or do there.
 * Null where no patch of it was burned. */
export function useRead(page: TrialPageData) {
  const { me } = useShop()
  const process = useProcess(page.process)
  const scales = useScales(process, page.burned?.trial.patch.shape)
  const worded = useOutcomeWords(process, page.material_id)
  const [face, flip] = useFace()
  const readings = useReadings(page)
  const photos = usePhotosSay(page)
  // Each treatment has readings of its own: until it is known which are meant, nothing is said of any.
  const treating = useIsMutating({ mutationKey: treatmentKey(page.burn?.id) }) > 0
  const toggleNotBurned = useNotBurned(page)
  const [selected, setSelected] = useState(NONE)
  const plate = page.burned
  const patches = plate?.patches ?? []
  const order = walk(patches, page.not_burned)
  const wanted = wantEye(order, (id) => isScored(readings.scoresFor(id), process), photos.says)
  const [chosen, go] = useActivePatch((id) => patches.some((patch) => patch.id === id))
  const active = chosen ?? wanted[0] ?? order[0]
  const patch = patches.find((one) => one.id === active)
  if (!plate || active === undefined || !patch) return null

  const wasBurned = order.includes(active)
  const mayScore = wasBurned && me.may_write
  const scores = readings.scoresFor(active)
  const word: PhotoScore | undefined = photos.says.get(active)
  const together = selected.size > 0 ? order.filter((id) => selected.has(id) || id === active) : [active]

  const clear = () => setSelected(NONE)
  const nextUnsure = () => go(nextWanted(wanted, active) ?? active)
  const onward = () => {
    const at = wanted.indexOf(active)
    // Where photos have spoken, what they are not sure of comes next; else the next patch of the walk.
    const unsure = at >= 0 && photos.says.size > 0 ? nextWanted(wanted, active) : null
    go(unsure ?? next(order, active))
  }
  /** Says of the patch, and of all that are selected with it, what a rule makes of its scores. */
  const give = (rule: (scores: Scores) => Scores | null, goOn: boolean) => {
    if (!mayScore || treating) return
    const said = new Map<string, Scores>()
    for (const id of together) {
      const after = rule(readings.scoresFor(id))
      if (after) said.set(id, after)
    }
    if (said.size === 0) return
    readings.score(said)
    if (selected.size > 0) clear()
    if (goOn && together.length === 1) onward()
    else if (chosen !== active) go(active)
  }
  const extend = (id: string) => {
    setSelected((before) => new Set([...before, active, id]))
    go(id)
  }
  return {
    page,
    plate,
    process,
    scales,
    words: worded.words,
    /** What the degrees of the active patch are called, and how one asks for them. */
    asked: worded.of(scores.values),
    wordsOf: worded.of,
    face,
    flip,
    readings,
    photos,
    order,
    wanted,
    active,
    patch,
    wasBurned,
    mayScore,
    scores,
    word,
    together,
    selected,
    isOverruled: (id: string) => isOverruled(readings.readingOf(id), photos.says.get(id), process),
    give,
    /** The scores a button or field shows for the active patch, changed. */
    giveChanged: (after: Scores, goOn: boolean) => give((before) => changedAs(before, scores, after), goOn),
    agree: () => {
      if (word && outcomeOf(word, process) !== null)
        give((before) => agreed(before, word, process, scales), true)
    },
    extend,
    pick: (id: string, event?: PickEvent) => {
      if (event && (event.shiftKey || event.ctrlKey || event.metaKey)) return extend(id)
      clear()
      go(id)
    },
    clear,
    back: () => go(next(order, active, -1)),
    nextUnsure,
    /** Says that the patch was not burned, or that it was after all; undefined where one may not. */
    toggleNotBurned: patch.burn && me.may_write ? () => toggleNotBurned(active) : undefined,
    undo: () => {
      const undone = readings.undo()
      if (undone) go(undone)
    },
    /** The page with this plate and others beside it. */
    beside: `/compare?sides=${page.burn?.id}&face=${face}&patch=${active}`,
  }
}

export type Reader = NonNullable<ReturnType<typeof useRead>>

export const ReadContext = createContext<Reader | null>(null)

/** The plate that is being read. */
export function useReader(): Reader {
  const reader = useContext(ReadContext)
  if (!reader) throw new Error('useReader needs a ReadContext above it; ReadStage provides one.')
  return reader
}
