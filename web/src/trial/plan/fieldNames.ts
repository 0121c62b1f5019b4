import type { Design, DesignKey, Parameter } from '../../api/types'

/** What a path of a design, such as `axes[1].from`, is called on the screen. */
export function fieldName(
  path: string,
  design: Design,
  { design_keys, parameters }: { design_keys: DesignKey[]; parameters: Parameter[] },
): string {
  const named = (key: string) =>
    parameters.find((one) => one.key === key)?.name ??
    design_keys.find((one) => one.key === key)?.name ??
    key.replaceAll('_', ' ')
  const [, at, inStep] = /^steps\[(\d+)\]\.(.+)$/.exec(path) ?? []
  const step = design.steps?.[Number(at)]
  if (inStep && step) return `${step.name}, ${fieldName(inStep, design, { design_keys, parameters })}`
  const [first = '', ...rest] = path.split('.')
  const last = rest.at(-1)
  const axis = /^axes\[(\d+)\]$/.exec(first)
  if (axis) return named(design.axes[Number(axis[1])]?.parameter ?? 'axes')
  if (last === undefined || first === 'hold') return named(last ?? first)
  const setting = rest.includes('settings') || first.endsWith('_settings')
  return setting && last !== 'settings' ? `${named(first)}, ${named(last)}` : named(first)
}
