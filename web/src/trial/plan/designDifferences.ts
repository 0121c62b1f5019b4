import type { Axis, Design, Parameter } from '../../api/types'
import { differingLines } from '../../shared/differingLines'
import type { Lines } from '../../shared/differingLines'

type ParameterOf = (key: string) => Parameter

function axisWords(axis: Axis | undefined, parameter: ParameterOf): string {
  if (!axis) return 'nothing'
  const { name, unit } = parameter(axis.parameter)
  if (axis.values) return `${name} ${String(axis.values).replaceAll(',', ', ')} ${unit}`.trim()
  return `${name} ${axis.from} to ${axis.to} ${unit}, ${axis.count} steps`
}

const settingsWords = (settings: Design['hold'], parameter: ParameterOf) =>
  Object.entries(settings)
    .map(([key, value]) => `${parameter(key).name} ${value} ${parameter(key).unit}`.trim())
    .sort()
    .join(', ') || 'nothing'

/** A design line by line, in the words of the bench. */
function lines(design: Design, parameter: ParameterOf): Lines {
  const along = (way: Axis['along']) => design.axes.find((axis) => axis.along === way)
  const { patch, labels } = design
  return [
    ['Along the plate', axisWords(along('x'), parameter)],
    ['Up the plate', axisWords(along('y'), parameter)],
    ['Held', settingsWords(design.hold, parameter)],
    ['Patch', `${patch.width_mm} × ${patch.height_mm} mm, ${patch.gap_mm} mm apart`],
    ['Labels', labels.on ? `on, ${settingsWords(labels.settings, parameter)}` : 'off'],
    ['Order', design.order.replace('_', ' ')],
    ['Left out', design.off.join(', ') || 'nothing'],
  ]
}

/** Where two designs differ. */
export function designDifferences(theirs: Design, mine: Design, parameter: ParameterOf) {
  return differingLines(lines(theirs, parameter), lines(mine, parameter))
}
