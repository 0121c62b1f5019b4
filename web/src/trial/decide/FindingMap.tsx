import { memo, useId, useMemo } from 'react'
import type { Aim, FindingData, OutcomeMapData, Plate as PlateData } from '../../api/types'
import { SvgText } from '../../plate/SvgText'
import { onScale, palette } from '../../theme/palette'
import { PIN_OF } from '../../recipes/aims'
import {
  aroundPatches,
  contour,
  gapsBetweenRows,
  guessedPath,
  levelsOf,
  mapBox,
  mapColour,
  namesApart,
  shownOf,
} from './outcomeMap'

/** The map as a small picture, a point a pixel; the browser draws it large and smooth. */
function pictureOf(map: OutcomeMapData): string {
  const canvas = document.createElement('canvas')
  canvas.width = map.x.mm.length
  canvas.height = map.y.mm.length
  const context = canvas.getContext('2d')
  if (!context) return ''
  const turned = (map.x.mm.at(-1) ?? 0) < (map.x.mm[0] ?? 0)
  const upside = (map.y.mm.at(-1) ?? 0) < (map.y.mm[0] ?? 0)
  map.expected.forEach((row, j) =>
    row.forEach((value, i) => {
      context.fillStyle = mapColour(map, value)
      context.fillRect(turned ? row.length - 1 - i : i, upside ? j : map.expected.length - 1 - j, 1, 1)
    }),
  )
  return canvas.toDataURL()
}

/** What is expected between the patches: plain where it is known, hatched where it is only guessed. */
export const MapBelow = memo(function MapBelow({ map, plate }: { map: OutcomeMapData; plate: PlateData }) {
  const height = plate.plate.height_mm
  const hatch = useId()
  const clip = useId()
  const around = useMemo(() => aroundPatches(plate), [plate])
  const picture = useMemo(() => pictureOf(map), [map])
  const guessed = useMemo(() => guessedPath(map, height), [map, height])
  const box = mapBox(map, height)
  const step = Math.max(box.width, box.height) / 60
  return (
    <g pointerEvents="none" data-map clipPath={`url(#${clip})`}>
      <pattern
        id={hatch}
        width={step}
        height={step}
        patternUnits="userSpaceOnUse"
        patternTransform="rotate(45)"
      >
        <rect width={step * 0.28} height={step} fill={palette.plate} />
      </pattern>
      <clipPath id={clip}>
        <rect {...around} y={height - around.y - around.height} />
      </clipPath>
      <image href={picture} {...box} preserveAspectRatio="none" />
      <path d={guessed} fill={`url(#${hatch})`} opacity={0.75} />
    </g>
  )
})

interface MapAboveProps {
  finding: FindingData
  plate: PlateData
  chosen: Aim | null
  at: [number, number] | null
}

/** Over the patches: lines of one outcome, the next array, the candidates as pins, and the place one asks about. */
export function MapAbove({ finding, plate, chosen, at }: MapAboveProps) {
  const height = plate.plate.height_mm
  const clip = useId()
  const around = useMemo(() => aroundPatches(plate), [plate])
  const boxes = finding.maps.map((map) => mapBox(map, height))
  if (boxes.length === 0) return null
  const left = Math.min(...boxes.map((box) => box.x))
  const right = Math.max(...boxes.map((box) => box.x + box.width))
  const top = Math.min(...boxes.map((box) => box.y))
  const bottom = Math.max(...boxes.map((box) => box.y + box.height))
  const unit = Math.max(right - left, bottom - top) / 100
  const [x0 = 0, y0 = 0, x1 = 0, y1 = 0] = finding.next?.box_mm ?? []
  return (
    <g pointerEvents="none">
      <clipPath id={clip}>
        <rect {...around} y={height - around.y - around.height} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        {finding.maps.map((map, i) => (
          <MapLines key={i} map={map} finding={finding} plate={plate} unit={unit} />
        ))}
      </g>
      {finding.next?.box_mm && (
        <rect
          x={x0 - unit}
          y={height - y1 - unit}
          width={x1 - x0 + 2 * unit}
          height={y1 - y0 + 2 * unit}
          rx={unit}
          fill="none"
          stroke={palette.ember}
          strokeWidth={unit * 0.7}
          strokeDasharray={`${unit * 2.4} ${unit * 1.4}`}
        />
      )}
      {[...finding.candidates]
        .sort((one, other) => Number(one.aim === chosen) - Number(other.aim === chosen))
        .map(
          ({ aim, place_mm }) =>
            place_mm && (
              <Pin
                key={aim}
                x={place_mm[0] ?? 0}
                y={height - (place_mm[1] ?? 0)}
                unit={unit}
                name={PIN_OF[aim]}
                lit={aim === chosen}
              />
            ),
        )}
      {at && (
        <g transform={`translate(${at[0]} ${height - at[1]})`}>
          <circle r={unit * 1.9} fill="none" stroke={palette.card} strokeWidth={unit * 1.3} />
          <circle r={unit * 1.9} fill="none" stroke={palette.ink} strokeWidth={unit * 0.6} />
        </g>
      )}
    </g>
  )
}

interface MapLinesProps {
  map: OutcomeMapData
  finding: FindingData
  plate: PlateData
  unit: number
}

/** Dots where it comes to another step than the wanted one, dashes where it holds. */
const DASHES: Record<number, number[]> = { 0: [0.5, 0.9], 2: [2, 1] }

/** The lines of one map: one dose, so many fresh sheets in a hundred or one lightness, and from where on it holds. */
const MapLines = memo(function MapLines({ map, finding, plate, unit }: MapLinesProps) {
  const height = plate.plate.height_mm
  const lines = useMemo(() => {
    const gaps = gapsBetweenRows(plate)
    const wanted = levelsOf(map, finding.holds_from).map(({ level, name }) => ({
      name,
      weight: name === 'holds' ? 2 : 1,
      heights: gaps,
      ...contour(map, level, height),
    }))
    // Where half of all sheets come to the next step; named from below, where the others are not.
    const turns = map.turns.map(({ name, expected }) => ({
      name,
      weight: 0,
      heights: gaps.toReversed(),
      ...contour(map, 0.5, height, expected),
    }))
    return [...wanted, ...turns].sort((one, other) => other.weight - one.weight)
  }, [map, finding.holds_from, plate, height])
  const single = finding.maps.length === 1
  const size = unit * 3
  const names = single
    ? namesApart(lines, shownOf(map, plate), size * 1.2, (name) => size * (0.54 * name.length + 0.6))
    : new Map<string, [number, number]>()
  return (
    <g>
      <polyline
        points={map.same_dose_mm.map(([x = 0, y = 0]) => `${x},${height - y}`).join(' ')}
        fill="none"
        stroke={onScale.pale}
        strokeWidth={unit * 0.5}
        data-same-dose
      />
      {lines.map(({ name, weight, path }) => (
        <g key={name}>
          <path
            d={path}
            fill="none"
            stroke={palette.plate}
            strokeWidth={unit * (weight === 2 ? 1 : 0.7)}
            opacity={0.55}
          />
          <path
            d={path}
            fill="none"
            stroke={palette.ink}
            strokeWidth={unit * (weight === 2 ? 0.6 : 0.3)}
            strokeDasharray={DASHES[weight]?.map((part) => part * unit).join(' ')}
            data-contour={name}
          />
        </g>
      ))}
      {[...names].map(([name, [x, y]]) => (
        <SvgText
          key={name}
          x={x}
          y={y + size * 0.35}
          size={size}
          weight={600}
          colour={palette.ink}
          halo={palette.plate}
        >
          {name}
        </SvgText>
      ))}
    </g>
  )
})

function Pin({ x, y, unit, name, lit }: { x: number; y: number; unit: number; name: string; lit: boolean }) {
  const size = unit * 3.1
  const width = size * (0.5 * name.length + 1.1)
  return (
    <g transform={`translate(${x} ${y})`}>
      <circle
        r={unit * 1.5}
        fill={lit ? palette.ember : palette.card}
        stroke={palette.ink}
        strokeWidth={unit * 0.5}
      />
      {lit && (
        <g transform={`translate(0 ${-unit * 4.4})`}>
          <rect
            x={-width / 2}
            y={-size * 0.8}
            width={width}
            height={size * 1.5}
            rx={size * 0.75}
            fill={palette.ember}
            stroke={palette.card}
            strokeWidth={unit * 0.3}
          />
          <SvgText x={0} y={size * 0.3} size={size} weight={600} colour={palette.card}>
            {name}
          </SvgText>
        </g>
      )}
    </g>
  )
}
