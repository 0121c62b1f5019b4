/** A version line by line: what the line is called, and what it says. */
export type Lines = [name: string, text: string][]

/** The lines in which two versions of one thing differ; both have the same lines in the same order. */
export function differingLines(theirs: Lines, mine: Lines) {
  return theirs
    .map(([name, text], i) => ({ name, theirs: text, mine: mine[i]?.[1] ?? '' }))
    .filter((row) => row.theirs !== row.mine)
}
