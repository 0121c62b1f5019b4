import type { LiveRun } from './types'

/** Which of two things one knows of a run is the later one. */

export const isOver = (run: LiveRun) => ['done', 'stopped', 'interrupted'].includes(run.state)

/** Whether a run has ended, or its end has come into the records, since it was last heard of. */
export const hasEndedSince = (before: LiveRun | null | undefined, run: LiveRun) =>
  isOver(run) && (before?.key !== run.key || before.version !== run.version)

/** Of two pictures of a trial's runs, the one that is later. */
export function laterRun(
  fetched: LiveRun | null | undefined,
  heard: LiveRun | null | undefined,
): LiveRun | null {
  if (!fetched || !heard) return heard ?? fetched ?? null
  if (fetched.key === heard.key) return heard.version >= fetched.version ? heard : fetched
  return isOver(heard) ? fetched : heard
}
