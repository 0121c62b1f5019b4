import type { Plate, PlateWarning } from '../../api/types'

export interface WarningGroup {
  kind: string
  level: PlateWarning['level']
  patches: string[]
  sentence: string
}

/** Warnings of one kind together, the gravest first: one sentence, and the patches it is about. */
export function grouped(plate: Plate): WarningGroup[] {
  const groups = new Map<string, WarningGroup>()
  const add = (warning: PlateWarning, patch: string | null) => {
    const key = `${warning.kind} ${warning.level} ${patch === null ? warning.sentence : ''}`
    const group = groups.get(key) ?? {
      kind: warning.kind,
      level: warning.level,
      patches: [],
      sentence: warning.sentence,
    }
    // Of several steps each may say the same of a patch.
    if (patch !== null && !group.patches.includes(patch)) group.patches.push(patch)
    groups.set(key, group)
  }
  for (const warning of plate.warnings) add(warning, null)
  for (const patch of plate.patches) for (const warning of patch.warnings) add(warning, patch.id)
  const gravity = { refusal: 0, warning: 1, note: 2 }
  return [...groups.values()].sort((a, b) => gravity[a.level] - gravity[b.level])
}
