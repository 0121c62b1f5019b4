import type { Design, Head, Material, Parameter, Patch, Plate, Process, Scale } from '../src/api/types'

/** Made-up things the tests start from. */

export function parameter(key: string, more: Partial<Parameter> = {}): Parameter {
  return {
    key,
    name: key.replace(/_(mm_s|pct|khz|ns|mm|deg|kpa|ms|us)$/, '').replaceAll('_', ' '),
    unit: '',
    quantity: 'count',
    scale: 'linear',
    step: 1,
    default: null,
    needed: false,
    words: [],
    whole: false,
    processes: ['cut', 'line', 'area', 'deep', 'surface', 'photo'],
    sources: ['co2_glass', 'fibre_mopa'],
    motions: ['gantry', 'galvo'],
    ...more,
  }
}

export const speed = parameter('speed_mm_s', { name: 'speed', unit: 'mm/s', quantity: 'speed' })
export const power = parameter('power_pct', { name: 'power', unit: '%', quantity: 'percent' })
export const passes = parameter('passes', { default: 1, whole: true })
export const air = parameter('air_level', { name: 'air', words: ['off', 'on', 'high'], whole: true })
export const focus = parameter('focus_offset_mm', { name: 'focus offset', quantity: 'length', default: 0 })

export const cut: Process = {
  key: 'cut',
  name: 'Cut',
  verb: 'cut',
  fills: false,
  put_back_doubt: '',
  passes_through: true,
  faces: ['front', 'back'],
  deciding_face: 'back',
  dose_key: 'dose_j_mm',
  dose_unit: 'J/mm',
  outcome: 'through',
  offered: true,
}
export const area: Process = {
  ...cut,
  key: 'area',
  name: 'Engrave',
  fills: true,
  put_back_doubt: '',
  passes_through: false,
  faces: ['front'],
  deciding_face: 'front',
  outcome: 'darkness',
}

export const wren: Head = {
  id: 1,
  name: 'lens',
  title: 'Wren',
  machine_id: 1,
  machine: 'Wren',
  heads: 1,
  link: '',
  edit: 1,
  retired: false,
  facts: { name: 'lens', spot_mm: 0.2, m2: null, focal_mm: 50 },
  assumed: [],
  machine_assumed: [],
  machine_facts: {
    name: 'Wren',
    source: 'co2_glass',
    motion: 'gantry',
    rated_power_w: 60,
    wavelength_nm: 10600,
    field_width_mm: 600,
    field_height_mm: 400,
    max_speed_mm_s: 500,
    firing_floor_pct: 9,
    max_power_pct: 85,
    frequency_khz: null,
    air: 'on_off',
    travel_speed_mm_s: 400,
    acceleration_mm_s2: 4000,
    jump_delay_us: 0,
    settle_us: 0,
    trace_power_pct: null,
    pulse_widths: null,
    s_at_full_power: 1000,
    corner_jump_mm_s: 10,
    polygon_delay_us: 0,
    power_mode: 'constant' as const,
    focus_by_z: false,
    hears_settings: false,
    dwells_with_beam: true,
    beam_drops_at_rest: false,
    distinct_settings: null,
    takes: null,
    shows: {},
    units: {},
  },
}

export function design(more: Partial<Design> = {}): Design {
  return {
    title: '',
    hold: { air_level: 1 },
    axes: [
      { parameter: 'speed_mm_s', along: 'x', from: 8, to: 32, count: 4, spacing: 'linear' },
      { parameter: 'power_pct', along: 'y', from: 30, to: 80, count: 3, spacing: 'linear' },
    ],
    patch: { shape: 'rectangle', width_mm: 10, height_mm: 10, gap_mm: 3 },
    labels: { on: false, height_mm: 2, settings: {} },
    order: 'rows',
    off: [],
    ...more,
  }
}

export function patch(id: string, row: number, column: number, more: Partial<Patch> = {}): Patch {
  return {
    id,
    row,
    column,
    block: null,
    x_mm: 13 * (column - 1),
    y_mm: 13 * (row - 1),
    width_mm: 10,
    height_mm: 10,
    burn: true,
    settings: { speed_mm_s: 8 * column, power_pct: 5 + 25 * row },
    dose_j_mm: 1,
    seconds: 1,
    corner_rise: 1,
    corner_slowing_mm: 0,
    set_by_hand: [],
    warnings: [],
    ...more,
  }
}

/** Rows A and B, columns 1 to 3. */
export const sixPatches = ['A', 'B'].flatMap((letter, row) =>
  [1, 2, 3].map((column) => patch(`${letter}${column}`, row + 1, column)),
)

export function plate(patches: Patch[], warnings: Plate['warnings'] = []): Plate {
  return {
    format: 'rezept-plate',
    version: 1,
    trial: {
      process: 'cut',
      machine: { name: 'Wren', motion: 'gantry' },
      material: { name: 'Poplar plywood', hazards: [] },
      hold: {},
      axes: [],
      patch: { shape: 'rectangle', width_mm: 8, height_mm: 8, gap_mm: 2 },
      piece: null,
      place: { at: 'corner', x_mm: 0, y_mm: 0, turn_deg: 0 },
    },
    plate: { width_mm: 40, height_mm: 30 },
    marks: [],
    hang_hole: null,
    judged: 0,
    drawing: { axes: [], figures: [], marks: [], hang_hole: null },
    patches,
    order: patches.map((one) => one.id),
    cooling: { least_apart: null, best_apart: null, shortest_wait_s: null },
    seconds: 1,
    label_seconds: 0,
    travel_seconds: 0,
    warnings,
  }
}

export function sheet(
  id: number,
  name: string,
  thickness: number | null,
  processes: Material['processes'],
  more: Partial<Material> = {},
): Material {
  return {
    id,
    name,
    title: thickness === null ? name : `${name} ${thickness} mm`,
    thickness_mm: thickness,
    processes,
    facts: {},
    family: 'wood',
    mark: 'darker',
    hazards: [],
    ground_lab: null,
    ground_colour: '',
    density_kg_m3: null,
    hardness: null,
    supplier_code: '',
    note: '',
    edit: 1,
    retired: false,
    ...more,
  }
}

const scale = (key: string, entry: Scale['entry'], more: Partial<Scale>): Scale => ({
  more_is_better: false,
  shapes: [],
  works_to: null,
  wanted_from: null,
  key,
  name: key,
  kind: 'degrees',
  entry,
  low: 0,
  high: 3,
  processes: ['cut', 'area'],
  unit: '',
  letter: '',
  words: [],
  lighter_words: [],
  coloured_words: [],
  question: '',
  lighter_question: '',
  coloured_question: '',
  said_by: ['person', 'photo'],
  works_from: 0,
  ...more,
})

/** What can be read of cuts, and of engravings. */
export const ofCuts: Scale[] = [
  scale('through', 'digit', { processes: ['cut'], words: ['not', 'partly', 'with a push', 'drops out'] }),
  scale('char', 'letter', { processes: ['cut'], letter: 'c' }),
  scale('soot', 'letter', { letter: 's' }),
  scale('flame', 'letter', { kind: 'yes', high: 1, letter: 'f', said_by: ['person'] }),
  scale('kerf_mm', 'typed', {
    kind: 'length',
    high: 20,
    unit: 'mm',
    processes: ['cut'],
    said_by: ['person'],
  }),
]
export const ofMarks: Scale[] = [
  scale('darkness', 'digit', { processes: ['area'], high: 5 }),
  scale('evenness', 'shift_digit', { processes: ['area'] }),
  scale('soot', 'letter', { letter: 's' }),
]
