import { useMemo } from 'react'
import type { Patch } from '../api/types'
import { useNarrow } from '../shared/useNarrow'
import { palette } from '../theme/palette'
import { SvgText } from './SvgText'
import { railScale, stacked } from './railScale'

export const doseOf = (patch: Patch) => patch.dose_j_mm ?? patch.dose_j_mm2 ?? 0

/** A patch on the rail, where its dose puts it. */
export interface Tick {
  id: string
  dose: number
}

/** The patches of a plan that burn. */
export const plannedTicks = (patches: Patch[]): Tick[] =>
  patches.filter((patch) => patch.burn).map((patch) => ({ id: patch.id, dose: doseOf(patch) }))

interface DoseRailProps {
  ticks: Tick[]
  unit: string
  /** Which of several steps it is of. */
  name?: string
  fill: (tick: Tick) => string
  active?: string | null
  onPick?: (id: string) => void
  /** A dose that matters, such as the starting dose, with its word. */
  marked?: { dose: number; word: string } | null
  label: string
}

// Drawn about as wide as it is shown, so that its figures keep their size.
const WIDE = 800
const NARROW = 380
const TICK = 9
const MOST_LEVELS = 4

/** One horizontal scale of dose; every patch is a tick at its dose. Settings of equal dose stand above each other. */
export function DoseRail({ ticks, unit, name, fill, active, onPick, marked, label }: DoseRailProps) {
  const width = useNarrow() ? NARROW : WIDE
  const burning = useMemo(() => ticks.filter((tick) => tick.dose > 0), [ticks])
  const doses = useMemo(() => burning.map((tick) => tick.dose), [burning])
  const all = marked ? [...doses, marked.dose] : doses
  const scale = railScale(all.length > 0 ? all : [1], 14, width - 14)
  const levels = stacked(doses.map(scale.at), TICK + 1)
  const deepest = Math.min(Math.max(...levels, 0), MOST_LEVELS - 1)
  const base = 20 + (deepest + 1) * (TICK + 1)
  return (
    <figure style={{ margin: 0 }} data-rail>
      <figcaption style={{ fontSize: 13, color: palette.ink2, marginBottom: 2 }}>
        <strong style={{ color: palette.ink }}>{name ? `Dose, ${name},` : 'Dose'}</strong> {unit}; every patch
        where its dose puts it
      </figcaption>
      <svg
        viewBox={`0 0 ${width} ${base + 22}`}
        width="100%"
        role="img"
        aria-label={label}
        style={{ display: 'block' }}
      >
        {marked && (
          <g>
            <line
              x1={scale.at(marked.dose)}
              x2={scale.at(marked.dose)}
              y1={15}
              y2={base}
              stroke={palette.steel}
              strokeWidth={1.5}
              strokeDasharray="3 2"
            />
            <SvgText
              x={Math.min(Math.max(scale.at(marked.dose), 70), width - 70)}
              y={11}
              size={12.5}
              weight={600}
              colour={palette.steel}
            >
              {marked.word}
            </SvgText>
          </g>
        )}
        {burning.map((tick, i) => (
          // Picking is a pointer shortcut here; the plate offers the same by keyboard.
          <rect
            key={tick.id}
            x={scale.at(doses[i] ?? 1) - TICK / 2}
            y={base - 2 - TICK - Math.min(levels[i] ?? 0, MOST_LEVELS - 1) * (TICK + 1)}
            width={TICK}
            height={TICK}
            rx={1.5}
            fill={fill(tick)}
            stroke={tick.id === active ? palette.ink : palette.ink3}
            strokeWidth={tick.id === active ? 2.5 : 0.6}
            onClick={onPick && (() => onPick(tick.id))}
            style={onPick ? { cursor: 'pointer' } : undefined}
            data-tick={tick.id}
          />
        ))}
        <line x1={4} x2={width - 4} y1={base} y2={base} stroke={palette.ink} strokeWidth={1.5} />
        {scale.marks.map(({ dose, x }) => (
          <g key={dose}>
            <line x1={x} x2={x} y1={base} y2={base + 4} stroke={palette.ink} />
            <SvgText x={x} y={base + 17} size={13} colour={palette.ink2}>
              {dose}
            </SvgText>
          </g>
        ))}
      </svg>
    </figure>
  )
}
