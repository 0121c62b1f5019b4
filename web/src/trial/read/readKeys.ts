import type { KeyboardEvent } from 'react'
import type { Patch, Process, Scale } from '../../api/types'
import { ARROWS, neighbour } from '../../plate/geometry'
import { lettered, shiftedDigit, withCannotTell, withDigit, withLetter, withShiftedDigit } from './scoring'
import type { Scores } from './scoring'

interface ReadKeys {
  patches: Patch[]
  active: string
  mirrored: boolean
  process: Process
  most: number
  scales: Scale[]
  /** Says of the patch, and of all that are selected with it, what a rule makes of its scores. */
  give: (rule: (scores: Scores) => Scores | null, goOn: boolean) => void
  go: (id: string) => void
  extend: (id: string) => void
  agree: () => void
  clear: () => void
  before: () => void
  nextUnsure: () => void
  flip: () => void
  compare: () => void
  notBurned: () => void
  undo: () => void
}

/** What each key does while the plate has the focus. */
export function readKeys(keys: ReadKeys) {
  const plain: Record<string, () => void> = {
    Enter: keys.agree,
    Escape: keys.clear,
    Backspace: keys.before,
    n: keys.nextUnsure,
    x: keys.flip,
    k: keys.compare,
    o: keys.notBurned,
    u: keys.undo,
    t: () => keys.give((scores) => withCannotTell(scores, keys.process), true),
  }
  const letters = lettered(keys.scales).map((scale) => scale.letter)
  return (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const { active, patches, process, most } = keys
    const step = ARROWS[event.key]
    const even = shiftedDigit(event)
    const key = event.key
    if (step) {
      const to = neighbour(patches, active, step, keys.mirrored)
      if (event.shiftKey) keys.extend(to)
      else keys.go(to)
    } else if (even !== null) keys.give((scores) => withShiftedDigit(scores, even, keys.scales), false)
    else if (/^\d$/.test(key)) keys.give((scores) => withDigit(scores, Number(key), process, most), true)
    else if (letters.includes(key)) keys.give((scores) => withLetter(scores, key, keys.scales), false)
    else if (plain[key]) plain[key]()
    else return
    event.preventDefault()
  }
}
