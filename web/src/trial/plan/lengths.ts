import type { Parameter } from '../../api/types'

/** A figure that is no setting of the machine: what a typed field needs to know of it. */
function figure(name: string, unit: string, quantity: string): Parameter {
  return {
    key: name,
    name,
    unit,
    quantity,
    scale: 'linear',
    step: 0.1,
    default: null,
    processes: [],
    sources: [],
    motions: [],
    needed: false,
    whole: false,
    words: [],
  }
}

export const LENGTH = figure('length', 'mm', 'length')
export const COUNT = figure('steps', '', 'count')
export const ANGLE = figure('angle', '°', 'angle')
export const DOSE = figure('dose', '', 'count')
