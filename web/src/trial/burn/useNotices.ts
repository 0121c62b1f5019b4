import { useCallback, useEffect, useRef, useState } from 'react'
import type { LiveRun } from '../../api/types'
import { keptHere } from '../../shared/keptHere'

/** How one wants to be told that a burn ended, is held or broke off: not at all, by a sound, or by a notice of the
 * phone or computer as well. */
export type Told = 'no' | 'sound' | 'notice'

const KEY = 'rezept.told'
const SAYS: Partial<Record<LiveRun['state'], string>> = {
  held: 'is held, the beam is off',
  waiting: 'waits for your hand',
  done: 'is burned',
  stopped: 'was stopped',
  interrupted: 'broke off',
}
/** Two rising tones for what went well, two falling ones for what wants somebody. */
const WELL = [660, 880]
const LOOK = [880, 440]
const TONE_S = 0.22

function sound(tones: number[]) {
  const context = new AudioContext()
  tones.forEach((hz, i) => {
    const tone = context.createOscillator()
    const loud = context.createGain()
    tone.frequency.value = hz
    loud.gain.value = 0.2
    tone.connect(loud).connect(context.destination)
    tone.start(context.currentTime + i * TONE_S)
    tone.stop(context.currentTime + (i + 1) * TONE_S)
  })
  setTimeout(() => void context.close(), tones.length * TONE_S * 1000 + 200)
}

const kept = (): Told => {
  const told = keptHere.read(KEY)
  return told === 'sound' || told === 'notice' ? told : 'no'
}

/** Tells of the end, a hold or a fault of a run, in the way that was chosen on this device. */
export function useNotices(run: LiveRun | null, name: string): [Told, (told: Told) => void] {
  const [told, setTold] = useState(kept)
  const before = useRef(run?.state)
  const state = run?.state
  useEffect(() => {
    const was = before.current
    before.current = state
    const says = state && was !== undefined && was !== state ? SAYS[state] : undefined
    if (!says || told === 'no') return
    sound(state === 'done' ? WELL : LOOK)
    if (told === 'notice' && 'Notification' in window && Notification.permission === 'granted') {
      new Notification(`${name} ${says}`)
    }
  }, [state, told, name])
  const choose = useCallback((next: Told) => {
    keptHere.write(KEY, next)
    setTold(next)
    if (next !== 'no') sound(WELL)
    if (next === 'notice' && 'Notification' in window) void Notification.requestPermission()
  }, [])
  return [told, choose]
}
