/** A version part by part: its key, what it is called, and what it says. */
export type Lines = [key: string, name: string, text: string][]

/** A part in which two versions of one thing differ. */
export interface Differing {
  key: string
  name: string
  theirs: string
  mine: string
}

/** The parts in which two versions differ; both have the same parts in the same order. */
export function differingLines(theirs: Lines, mine: Lines): Differing[] {
  return theirs
    .map(([key, name, text], i) => ({ key, name, theirs: text, mine: mine[i]?.[2] ?? '' }))
    .filter((row) => row.theirs !== row.mine)
}
