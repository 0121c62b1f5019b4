import type { KeyboardEvent } from 'react'
import type { Scale } from '../../api/types'
import { ARROWS, neighbour } from '../../plate/geometry'
import { lettered, shiftedDigit, withCannotTell, withDigit, withLetter, withShiftedDigit } from './scoring'
import type { Reader } from './useRead'

/** What each key does while the plate has the focus. */
export function readKeys(reader: Reader, compare: () => void) {
  const { active, face, give, plate, process, scales } = reader
  const most = reader.words.length - 1
  const plain: Record<string, () => void> = {
    Enter: reader.agree,
    Escape: reader.clear,
    Backspace: reader.back,
    n: reader.nextUnsure,
    x: reader.flip,
    k: compare,
    o: () => reader.toggleNotBurned?.(),
    u: reader.undo,
    t: () => give((scores) => withCannotTell(scores, process), true),
  }
  const letters = lettered(scales).map((scale) => scale.letter)
  return (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const step = ARROWS[event.key]
    const even = shiftedDigit(event)
    const key = event.key
    if (step) {
      const to = neighbour(plate.patches, active, step, face === 'back')
      if (event.shiftKey) reader.extend(to)
      else reader.pick(to)
    } else if (even !== null) give((scores) => withShiftedDigit(scores, even, scales), false)
    else if (/^\d$/.test(key)) give((scores) => withDigit(scores, Number(key), process, most), true)
    else if (letters.includes(key)) give((scores) => withLetter(scores, key, scales), false)
    else if (plain[key]) plain[key]()
    else return
    event.preventDefault()
  }
}

/** The same keys, as they are explained. */
export function keyHints(words: string[], scales: Scale[]) {
  const most = words.length - 1
  const shifted = scales.find((scale) => scale.entry === 'shift_digit')
  return [
    { keys: ['← → ↑ ↓'], does: 'walk over the patches; with Shift select several' },
    { keys: [`0 … ${most}`], does: `${words[0]} … ${words[most]}, and on to the next` },
    { keys: ['Enter'], does: 'agree with the photos' },
    ...(shifted ? [{ keys: ['Shift', `${shifted.low} … ${shifted.high}`], does: shifted.name }] : []),
    { keys: lettered(scales).map((scale) => scale.letter), does: 'tags; once more for the next degree' },
    { keys: ['t'], does: "can't tell" },
    { keys: ['o'], does: 'not burned, or burned after all' },
    { keys: ['Backspace'], does: 'back to the patch before' },
    { keys: ['n'], does: 'next unsure, the least sure first' },
    { keys: ['x'], does: 'flip the plate' },
    { keys: ['k'], does: 'lay other plates beside it' },
    { keys: ['u', 'Ctrl Z'], does: 'undo' },
    { keys: ['Esc'], does: 'select one only' },
  ]
}
