import type { Plate } from '../api/types'

type Trial = Pick<Plate['trial'], 'axes' | 'listed'>

/** The keys of the settings that tell the patches of a plate apart. */
export function variedKeys({ axes, listed }: Trial): string[] {
  if (!listed) return axes.map((axis) => axis.parameter)
  const own = [...new Set(listed.settings.flatMap((one) => Object.keys(one)))]
  const differing = own.filter((key) => new Set(listed.settings.map((one) => one[key])).size > 1)
  return differing.length > 0 ? differing : own
}

/** Whether each patch has numbers of its own, which stand at no edge: those of a list, or of a ladder in several lines. */
export const hasOwnNumbers = ({ axes, listed }: Trial) =>
  Boolean(listed) || axes.some((axis) => axis.along === 'x' && axis.wrap)
