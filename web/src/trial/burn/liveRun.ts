import { isOver } from '../../api/runs'
import type { LiveRun, Run, Turning } from '../../api/types'
import { partOf } from '../../plate/ofStep'

/** Where a patch stands while its plate is burned and after. */
export type PatchState = 'waiting' | 'burning' | 'begun' | 'done' | 'uncertain' | 'bare'

const OF_PART: Record<Run['parts'][number]['state'], PatchState> = {
  waiting: 'waiting',
  burning: 'burning',
  done: 'done',
  uncertain: 'uncertain',
  bare: 'bare',
}

/** Whether a run leaves anything on the piece. */
export const isBurning = (run: LiveRun) => run.how !== 'dark' && run.how !== 'outline'

/** The state of each patch from those of its parts: where it has several steps, only some of them may have burned. */
function byPatch(parts: ReadonlyMap<string, PatchState>): Map<string, PatchState> {
  const found = new Map<string, PatchState[]>()
  for (const [name, state] of parts) {
    const { patch } = partOf(name)
    found.set(patch, [...(found.get(patch) ?? []), state])
  }
  return new Map([...found].map(([patch, states]) => [patch, together(states)]))
}

function together(states: readonly PatchState[]): PatchState {
  const [first = 'waiting'] = states
  if (states.every((state) => state === first)) return first
  if (states.includes('burning')) return 'burning'
  if (states.includes('uncertain')) return 'uncertain'
  return 'begun'
}

/** What the records say of each patch of a burn order, then what goes on now. */
export const patchStates = (...of: Parameters<typeof partStates>) => byPatch(partStates(...of))

function partStates(
  ids: string[],
  runs: Run[],
  notBurned: string[],
  burned: boolean,
  live: LiveRun | null,
): Map<string, PatchState> {
  const byHand = burned && !runs.some((run) => run.kind === 'whole')
  const states = new Map<string, PatchState>(ids.map((id) => [id, byHand ? 'done' : 'waiting']))
  for (const run of runs)
    for (const part of run.parts) {
      const state = OF_PART[part.state]
      if (states.has(part.name) && state !== 'waiting') states.set(part.name, state)
    }
  const bare = new Set(notBurned)
  for (const [id, state] of states) if (state === 'done' && bare.has(partOf(id).patch)) states.set(id, 'bare')
  if (!live || isOver(live)) return states
  if (live.how === 'whole' || !isBurning(live)) for (const id of ids) states.set(id, 'waiting')
  for (const id of live.done) if (states.has(id)) states.set(id, 'done')
  if (live.current && states.has(live.current)) states.set(live.current, 'burning')
  return states
}

export interface LogEntry {
  at: string
  sentence: string
  /** A remark that can be taken back. */
  remark: number | null
}

/** Every line of a burn's runs, of the one that goes on, and what people remarked, the latest first. */
export function logOf(
  live: LiveRun | null,
  runs: Pick<Run, 'lines'>[],
  remarks: {
    id: number
    kind: string
    patch: string | null
    note: string
    at: string
    by_name: string
    by_clock: boolean
  }[],
): LogEntry[] {
  // What the run on the screen has said already may stand in the records, too.
  const lines = new Map(
    [...runs.flatMap((run) => run.lines), ...(live?.log ?? [])].map((line) => [
      `${line.at} ${line.sentence}`,
      line,
    ]),
  )
  const said: LogEntry[] = [...lines.values()].map((line) => ({ ...line, remark: null }))
  const remarked = remarks.map((remark) => ({
    at: remark.at,
    sentence: `${remark.kind === 'note' ? remark.note : remark.kind}${remark.patch ? ` at ${remark.patch}` : ''}${remark.by_clock ? ' by the clock' : ''}, ${remark.by_name}`,
    remark: remark.id,
  }))
  return [...said, ...remarked].sort((a, b) => a.at.localeCompare(b.at)).reverse()
}

/** A correction in words: `+4 %`, `−0.2 mm`, or `±0`. */
export function correctionWords({ step, unit }: Pick<Turning, 'step' | 'unit'>, steps: number): string {
  if (steps === 0) return '±0'
  const amount = Number((Math.abs(steps) * step).toFixed(6))
  return `${steps > 0 ? '+' : '−'}${amount} ${unit}`
}
