import type { Fact, Head, Inventory, Lot, Machine, Material, Piece } from '../api/types'
import type { ChosenUnits } from '../shared/units'
import { inUnit, unitOf, unitSign, written } from '../shared/units'
import { isRecord } from '../shared/records'
import type { Differing } from '../shared/differingLines'

/** What a form of the shop asks for: its fields, and the way between stored figures and typed texts. */

export interface Option {
  value: string
  label: string
}

export type Field = {
  key: string
  label: string
  hint?: string
  needed?: boolean
  /** Stands under *more*. */
  more?: boolean
  /** How one comes to know it. */
  findOut?: string
} & (
  | { kind: 'note' | 'colour' | 'pair' | 'pulses' | 'flag' | 'levels' }
  /** `fromPhoto`: they can be taken from a photo, the holes with them. */
  | { kind: 'rows'; fromPhoto?: boolean }
  /** `usual`: what people usually say, offered while one types. */
  | { kind: 'text'; usual?: readonly string[] }
  | { kind: 'curves' | 'order'; options: Option[] }
  | { kind: 'quantity'; quantity: string }
  | { kind: 'choice'; options: Option[] }
  | { kind: 'checks'; options: (Option & { hint?: string })[] }
)

/** What stands in a form: texts, lists of ticked keys, pairs, rows. */
export type Values = Record<string, unknown>

const plainOptions = (values: readonly string[]): Option[] => values.map((value) => ({ value, label: value }))

/** A stored figure as it stands in its field: in my unit, with the unit behind it. */
export function figure(
  value: unknown,
  quantity: string,
  table: Inventory['units'],
  units: ChosenUnits,
): string {
  if (typeof value !== 'number') return ''
  const unit = unitOf(table, quantity, units)
  return `${written(inUnit(value, unit), 6)} ${unitSign(unit?.symbol ?? '')}`.trim()
}

/** The fact at a key such as `power_mode` or `shows.power_pct`. */
function factAt(facts: Values, key: string): unknown {
  return key.split('.').reduce<unknown>((inner, part) => (isRecord(inner) ? inner[part] : undefined), facts)
}

/** The facts with another value at a key. */
function withFact(facts: Values, key: string, value: unknown): Values {
  const [first = key, ...rest] = key.split('.')
  if (rest.length === 0) return { ...facts, [first]: value }
  const inner = facts[first]
  return { ...facts, [first]: withFact(isRecord(inner) ? inner : {}, rest.join('.'), value) }
}

/** Stored facts as the texts a form begins with. */
export function typedValues(
  fields: Field[],
  facts: Values,
  table: Inventory['units'],
  units: ChosenUnits,
): Values {
  return Object.fromEntries(
    fields.map((field) => {
      const value = factAt(facts, field.key)
      if (field.kind === 'quantity') return [field.key, figure(value, field.quantity, table, units)]
      if (field.kind === 'checks' || field.kind === 'order') return [field.key, value ?? []]
      if (field.kind === 'curves') return [field.key, curvesTyped(value)]
      if (field.kind === 'levels') return [field.key, levelsTyped(value)]
      if (field.kind === 'rows') return [field.key, rowsTyped(value)]
      if (field.kind === 'flag') return [field.key, value ?? false]
      if (field.kind === 'pair' || field.kind === 'pulses') return [field.key, value ?? null]
      return [field.key, value === null || value === undefined ? '' : String(value)]
    }),
  )
}

/** Rows of lengths as they are typed: a row a line. */
export const rowsTyped = (stored: unknown): string =>
  Array.isArray(stored)
    ? stored.map((row: unknown) => (Array.isArray(row) ? row.join('; ') : '')).join('\n')
    : ''

/** Levels of air as they are typed: a line each, with what a gauge showed. */
function levelsTyped(stored: unknown): string {
  if (!Array.isArray(stored)) return ''
  return stored
    .filter(isRecord)
    .map(({ name, kpa }) => (typeof kpa === 'number' ? `${String(name)} = ${kpa} kPa` : String(name)))
    .join('\n')
}

/** The scales of a control as they are typed: a pair a line. */
function curvesTyped(stored: unknown): Values {
  if (!isRecord(stored)) return {}
  return Object.fromEntries(
    Object.entries(stored).map(([key, curve]) => {
      if (!isRecord(curve)) return [key, curve]
      const pairs = Array.isArray(curve.pairs) ? curve.pairs : []
      const lines = pairs.map((pair) => (Array.isArray(pair) ? pair.join(' = ') : ''))
      return [key, { ...curve, pairs: lines.join('\n'), step: String(curve.step ?? '') }]
    }),
  )
}

/** The facts to send: what was typed where it was touched, the stored figure where not, so that nothing is rounded
 * by looking at it. `began` is null for something new: then everything is sent. */
export function sentFacts(fields: Field[], stored: Values, began: Values | null, now: Values): Values {
  let facts: Values = { ...stored }
  for (const { key } of fields) {
    const touched = began === null || JSON.stringify(now[key]) !== JSON.stringify(began[key])
    if (touched) facts = withFact(facts, key, now[key])
  }
  return facts
}

const namedOptions = (named: { key: string; name: string }[]) =>
  named.map(({ key, name }) => ({ value: key, label: name }))

const factField = (fact: Fact): Field => ({
  key: fact.key,
  label: fact.name.charAt(0).toUpperCase() + fact.name.slice(1),
  kind: 'quantity',
  quantity: fact.quantity,
  hint: fact.help || undefined,
  needed: fact.needed,
  more: !fact.needed,
  findOut: fact.find_out || undefined,
})

/** What controls count in units of their own. */
const CONTROL_UNITS = [
  { quantity: 'speed', name: 'speed' },
  { quantity: 'frequency', name: 'frequency' },
  { quantity: 'spacing', name: 'line spacing' },
  { quantity: 'pressure', name: 'air pressure' },
  { quantity: 'length', name: 'lengths' },
]

/** The fields of a machine; those that its kind of motion or source does not have are left out. */
export function machineFields(inventory: Inventory, source: string, motion: string): Field[] {
  const { forms } = inventory
  const fits = (fact: Fact) => fact.of !== 'head' && (fact.motion === '' || fact.motion === motion)
  const there = inventory.parameters.filter(
    (one) => one.sources.includes(source) && one.motions.includes(motion),
  )
  const settings = there.map(({ key, name }) => ({ value: key, label: name }))
  const varies = (key: string) =>
    inventory.parameters.some((one) => one.key === key && one.sources.includes(source))
  return [
    { key: 'name', label: 'Name', kind: 'text', needed: true },
    {
      key: 'source',
      label: 'Source',
      kind: 'choice',
      options: forms.sources.map((one) => ({ value: one.key, label: one.name })),
    },
    {
      key: 'motion',
      label: 'Moves as',
      kind: 'choice',
      options: plainOptions(['gantry', 'galvo']),
      more: true,
      findOut: 'a gantry moves its head, a galvo its mirrors',
    },
    ...forms.facts.filter(fits).map(factField),
    ...(varies('frequency_khz')
      ? [
          {
            key: 'frequency_khz',
            label: 'Frequency, kHz',
            kind: 'pair',
            more: true,
            findOut: 'in the papers of the source',
          } as const,
        ]
      : []),
    ...(varies('pulse_width_ns')
      ? [{ key: 'pulse_widths', label: 'Pulse widths', kind: 'pulses', more: true } as const]
      : []),
    {
      key: 'air',
      label: 'Air',
      kind: 'choice',
      options: namedOptions(forms.airs),
      more: true,
      findOut: 'what a program can switch or set of it',
    },
    {
      key: 'air_levels',
      label: 'What its levels of air are called, a line each with what a gauge shows: soft = 20 kPa',
      kind: 'levels',
      more: true,
    },
    {
      key: 'power_mode',
      label: 'Power',
      kind: 'choice',
      options: namedOptions(forms.power_modes),
      more: true,
    },
    {
      key: 'takes',
      label: 'Takes (nothing ticked: all are offered)',
      kind: 'checks',
      options: namedOptions(forms.file_kinds),
      more: true,
    },
    {
      key: 'by_hand',
      label: 'Set by hand, told by no program',
      kind: 'checks',
      options: settings.filter(({ value }) => forms.by_hand.includes(value)),
      more: true,
    },
    {
      key: 'stops_in_program',
      label: 'It waits at M0 in a program until it is let go on',
      kind: 'flag',
      more: true,
    },
    {
      key: 'pilot_pointer',
      label: 'A pointer shows where the beam would go: the outline needs no power',
      kind: 'flag',
      more: true,
    },
    {
      key: 'curves',
      label: 'Scales of its control that are no unit: a dial in mA, a valve in turns',
      kind: 'curves',
      options: settings,
      more: true,
    },
    {
      key: 'control_order',
      label: 'Fields of its control, in their order',
      kind: 'order',
      options: settings,
      more: true,
    },
    ...CONTROL_UNITS.map(({ quantity, name }): Field => ({
      key: `units.${quantity}`,
      label: `Its control shows ${name} in`,
      kind: 'choice',
      options: (inventory.units[quantity] ?? []).map(({ symbol }, i) => ({
        value: i === 0 ? '' : symbol,
        label: unitSign(symbol),
      })),
      more: true,
    })),
    { key: 'focus_by_z', label: 'A program may move the focus', kind: 'flag', more: true },
    {
      key: 'hears_settings',
      label: 'Reads settings from the comments of a program',
      kind: 'flag',
      more: true,
    },
    {
      key: 'beam_drops_at_rest',
      label: 'Its controller puts the beam off whenever the head stands',
      kind: 'flag',
      more: true,
    },
    {
      key: 'dwells_with_beam',
      label: 'It may burn while the head stands: a pierce dwell, in a file',
      kind: 'flag',
      more: true,
    },
    {
      key: 'link',
      label: 'Live link',
      kind: 'text',
      hint: '/dev/ttyUSB0 or socket://host:port; empty: files only',
      more: true,
    },
    { key: 'note', label: 'Note', kind: 'note', more: true },
  ]
}

export function headFields(inventory: Inventory, machine: Machine | null): Field[] {
  const motion = machine?.facts.motion
  const differs = (fact: Fact) => fact.of === 'both' && (fact.motion === '' || fact.motion === motion)
  const { facts } = inventory.forms
  return [
    { key: 'name', label: 'Name', kind: 'text', hint: 'such as 50 mm lens', needed: true },
    {
      key: 'height_by',
      label: 'Its height is set by',
      kind: 'choice',
      options: [
        { value: '', label: 'not said' },
        ...inventory.forms.height_by.map((one) => ({ value: one.key, label: one.name })),
      ],
    },
    ...facts.filter((fact) => fact.of === 'head').map(factField),
    ...(machine
      ? facts
          .filter(differs)
          .map((fact) => ({ ...factField(fact), needed: false, hint: 'only where it differs' }))
      : []),
  ]
}

/** A sheet: its name, family and, where it is cut, thickness; the rest stands under *more*. */
export function materialFields(inventory: Inventory, values: Values): Field[] {
  const meant = values.processes
  const cut =
    Array.isArray(meant) && inventory.processes.some((one) => one.passes_through && meant.includes(one.key))
  const { forms, processes } = inventory
  return [
    { key: 'name', label: 'Name', kind: 'text', needed: true },
    { key: 'family', label: 'Family', kind: 'choice', options: plainOptions(forms.families) },
    {
      key: 'thickness_mm',
      label: 'Thickness',
      kind: 'quantity',
      quantity: 'length',
      needed: cut,
      hint: 'also 1/8 in, 16 ga steel, 300 g/m2',
    },
    {
      key: 'mark',
      more: true,
      label: 'A mark comes out',
      kind: 'choice',
      options: plainOptions(['darker', 'lighter']),
    },
    {
      key: 'processes',
      more: true,
      label: 'Meant for',
      kind: 'checks',
      options: processes.map((one) => ({ value: one.key, label: one.name.toLowerCase() })),
    },
    {
      key: 'hazards',
      more: true,
      label: 'Hazards',
      kind: 'checks',
      options: forms.hazards.map((one) => ({ value: one.key, label: one.key, hint: one.consequence })),
    },
    { key: 'ground_colour', more: true, label: 'Colour of the bare ground', kind: 'colour' },
    { key: 'density_kg_m3', more: true, label: 'Density', kind: 'quantity', quantity: 'density' },
    {
      key: 'hardness',
      more: true,
      label: 'Hardness',
      kind: 'choice',
      options: [
        { value: '', label: 'not said' },
        ...forms.hardness.map((label, i) => ({ value: String(i + 1), label })),
      ],
    },
    ...forms.sheet_facts
      .filter(({ asked }) => asked)
      .filter(
        ({ process }) =>
          process === '' || (Array.isArray(values.processes) && values.processes.includes(process)),
      )
      .map(({ key, name, usual, colour }): Field => {
        const asked = { key: `facts.${key}`, more: true, label: name.charAt(0).toUpperCase() + name.slice(1) }
        if (colour) return { ...asked, kind: 'colour' }
        return {
          ...asked,
          kind: 'text',
          usual: [...(usual[String(values.family)] ?? []), ...(usual[''] ?? [])],
        }
      }),
    { key: 'supplier_code', more: true, label: 'Supplier’s code', kind: 'text' },
    { key: 'note', more: true, label: 'Note', kind: 'note' },
  ]
}

/** What a material is meant for follows its family, until somebody has changed it. */
export function followFamily({ usually_meant_for: usual }: Inventory['forms']) {
  const same = (processes: unknown, family: readonly string[]) =>
    Array.isArray(processes) && [...processes].sort().join() === [...family].sort().join()
  return (key: string, values: Values): Values => {
    const meant = usual[String(values.family)]
    const untouched = Object.values(usual).some((family) => same(values.processes, family))
    return key === 'family' && meant && untouched ? { ...values, processes: meant } : values
  }
}

export const LOT_FIELDS: Field[] = [
  { key: 'name', label: 'Lot', kind: 'text', hint: 'pallet, roll, batch number', needed: true },
  { key: 'measured_mm', label: 'Measured thickness', kind: 'quantity', quantity: 'length' },
  { key: 'supplier_code', label: 'Supplier’s code', kind: 'text' },
  { key: 'note', label: 'Note', kind: 'note' },
]

/** A piece: its size, where its top lies, and what lot it is of. */
export function pieceFields(inventory: Inventory, lots: Lot[], { shape, top }: Values): Field[] {
  const tops = inventory.forms.tops.map((one) => ({ value: one.key, label: one.name }))
  const size: Field[] =
    shape === 'outline'
      ? [
          {
            key: 'outline',
            fromPhoto: true,
            label: 'Its corners in turn, one a line: from the left; from below, mm',
            kind: 'rows',
          },
        ]
      : [
          {
            key: 'width_mm',
            label: 'Width or diameter',
            kind: 'quantity',
            quantity: 'length',
            needed: true,
          },
          ...(shape === 'disc'
            ? []
            : [{ key: 'height_mm', label: 'Depth', kind: 'quantity', quantity: 'length' } as const]),
        ]
  return [
    { key: 'name', label: 'Piece', kind: 'text', hint: 'such as scrap by the window', needed: true },
    {
      key: 'shape',
      label: 'Shape',
      kind: 'choice',
      options: [
        ...plainOptions(['rectangle', 'disc']),
        { value: 'outline', label: 'another, by its corners' },
      ],
    },
    ...size,
    { key: 'margin_mm', label: 'Bare margin', kind: 'quantity', quantity: 'length' },
    {
      key: 'count',
      label: 'So many alike',
      kind: 'quantity',
      quantity: 'count',
      hint: 'blanks, each burned once',
    },
    {
      key: 'holes',
      label: 'Holes, one a line: from the left; from below; diameter, mm',
      kind: 'rows',
      more: true,
    },
    {
      key: 'rise_mm',
      label: 'Its top above the bed',
      kind: 'quantity',
      quantity: 'length',
      hint: 'empty: as thick as the sheet, flat',
      more: true,
    },
    { key: 'top', label: 'Its top is', kind: 'choice', options: tops, more: true },
    ...(top && top !== 'level'
      ? [
          {
            key: 'top_varies_mm',
            label: 'It varies by',
            kind: 'quantity',
            quantity: 'length',
            hint: 'where the plate lies',
            more: true,
          } as const,
        ]
      : []),
    {
      key: 'lot_id',
      label: 'Lot',
      kind: 'choice',
      options: [
        { value: '', label: 'not said' },
        ...lots.map((lot) => ({ value: String(lot.id), label: lot.name })),
      ],
    },
    { key: 'note', label: 'Note', kind: 'note' },
  ]
}

/** Rows of the shop as the facts their forms edit. */
export const machineFacts = (machine: Machine): Values => ({
  ...machine.facts,
  assumed: machine.assumed,
  note: machine.note,
  link: machine.link,
})
export const headFacts = (head: Head): Values => ({
  ...head.facts,
  assumed: head.assumed,
  machine_id: head.machine_id,
})

/** Which figures of a form nobody has looked up yet. */
export const assumedOf = (values: Values): string[] =>
  Array.isArray(values.assumed) ? values.assumed.map(String) : []

const MATERIAL_FACTS = [
  'name',
  'family',
  'thickness_mm',
  'mark',
  'processes',
  'hazards',
  'ground_lab',
  'density_kg_m3',
  'hardness',
  'facts',
  'supplier_code',
  'note',
] as const
const LOT_FACTS = ['material_id', 'name', 'measured_mm', 'supplier_code', 'note'] as const
const PIECE_FACTS = [
  'material_id',
  'lot_id',
  'name',
  'shape',
  'width_mm',
  'height_mm',
  'margin_mm',
  'outline',
  'holes',
  'count',
  'rise_mm',
  'top',
  'top_varies_mm',
  'note',
] as const

/** Some keys of a row. */
export function picked<T extends object>(row: T, keys: readonly (keyof T & string)[]): Values {
  return Object.fromEntries(keys.map((key) => [key, row[key]]))
}

export const materialFacts = (material: Material): Values => picked(material, MATERIAL_FACTS)
/** The colour is edited as a screen shows it; the figure behind it stays unless it is touched. */
export const materialShown = (material: Material): Values => ({
  ...materialFacts(material),
  // As somebody typed it; the figure in mm follows from that.
  thickness_mm: material.facts.thickness_said ?? material.thickness_mm,
  ground_colour: material.ground_colour,
})
export const lotFacts = (lot: Lot): Values => picked(lot, LOT_FACTS)
export const pieceFacts = (piece: Piece): Values => picked(piece, PIECE_FACTS)

/** What differs between two versions, in words, for choosing between them. */
export function differences(
  fields: { key: string; label: string }[],
  theirs: Values,
  mine: Values,
): Differing[] {
  const words = (value: unknown) =>
    value === null || value === undefined || value === ''
      ? 'nothing'
      : typeof value === 'object'
        ? JSON.stringify(value)
            .replace(/["[\]{}]/g, ' ')
            .trim() || 'none'
        : String(value)
  return fields
    .filter(({ key }) => JSON.stringify(theirs[key]) !== JSON.stringify(mine[key]))
    .map(({ key, label }) => ({ key, name: label, theirs: words(theirs[key]), mine: words(mine[key]) }))
}
