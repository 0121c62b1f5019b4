import type { Plate } from '../api/types'

type Trial = Pick<Plate['trial'], 'axes' | 'listed' | 'added'>

/** The keys of the settings that tell the patches of a plate apart. */
export function variedKeys({ axes, listed, added }: Trial): string[] {
  if (!listed) {
    const own = axes.map((axis) => axis.parameter)
    // What was burned beside an array says every setting of its axes, and what else is otherwise.
    return [...new Set([...own, ...(added?.settings ?? []).flatMap((one) => Object.keys(one))])]
  }
  const own = [...new Set(listed.settings.flatMap((one) => Object.keys(one)))]
  const differing = own.filter((key) => new Set(listed.settings.map((one) => one[key])).size > 1)
  return differing.length > 0 ? differing : own
}

/** How many patches were burned one by one beside a plate; they are its last. */
export const addedCount = ({ added }: Pick<Trial, 'added'>) => added?.settings.length ?? 0

/** Whether each patch has numbers of its own, which stand at no edge: those of a list, or of a ladder in several lines. */
export const hasOwnNumbers = ({ axes, listed }: Trial) =>
  Boolean(listed) || axes.some((axis) => axis.along === 'x' && axis.wrap)
