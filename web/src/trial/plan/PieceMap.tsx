import { memo } from 'react'
import type { Plate } from '../../api/types'
import { palette } from '../../theme/palette'

/** The piece from above: its margin, what was burned on it before, and where the plate lies. */
export const PieceMap = memo(function PieceMap({ plate }: { plate: Plate }) {
  const { piece } = plate.trial
  return piece && <OnThePiece plate={plate} piece={piece} />
})

interface OnThePieceProps {
  plate: Plate
  piece: NonNullable<Plate['trial']['piece']>
}

function OnThePiece({ plate, piece }: OnThePieceProps) {
  const { place, burned_ground: burned = [] } = plate.trial
  const { width_mm: width, height_mm: height } = plate.plate
  const { width_mm: wide, height_mm: high, margin_mm: margin } = piece
  const unit = Math.max(wide, high) * 0.008
  const centred = place.at === 'centre'
  const x = place.x_mm + (centred ? wide / 2 - width / 2 : 0)
  const y = place.y_mm + (centred ? high / 2 - height / 2 : 0)
  const pivot = centred ? [x + width / 2, y + height / 2] : [x, y]
  const corners = piece.outline ?? []
  const outline = (inset: number) =>
    corners.length > 0 ? (
      inset === 0 && <polygon points={corners.map((corner) => corner.join(',')).join(' ')} />
    ) : piece.shape === 'disc' ? (
      <circle cx={wide / 2} cy={high / 2} r={Math.max(wide / 2 - inset, 0)} />
    ) : (
      <rect
        x={inset}
        y={inset}
        width={Math.max(wide - 2 * inset, 0)}
        height={Math.max(high - 2 * inset, 0)}
      />
    )
  return (
    <svg
      viewBox={`${-3 * unit} ${-3 * unit} ${wide + 6 * unit} ${high + 6 * unit}`}
      role="img"
      aria-label={`The plate on its piece of ${wide} by ${high} mm`}
      style={{ display: 'block', width: '100%', maxHeight: 150 }}
    >
      <g transform={`translate(0 ${high}) scale(1 -1)`}>
        <g fill={palette.plate} stroke={palette.control} strokeWidth={unit}>
          {outline(0)}
        </g>
        <g fill="none" stroke={palette.line} strokeWidth={unit} strokeDasharray={`${unit * 3}`}>
          {outline(margin)}
        </g>
        {(piece.holes ?? []).map(([left = 0, up = 0, across = 0], i) => (
          <circle
            key={i}
            cx={left}
            cy={up}
            r={across / 2}
            fill={palette.paper}
            stroke={palette.control}
            strokeWidth={unit}
          />
        ))}
        {burned.map((polygon, i) => (
          <polygon
            key={i}
            points={polygon.map((point) => point.join(',')).join(' ')}
            fill={palette.ink3}
            opacity={0.5}
          />
        ))}
        <rect
          x={x}
          y={y}
          width={width}
          height={height}
          transform={`rotate(${place.turn_deg} ${pivot.join(' ')})`}
          fill={palette.ember}
          fillOpacity={0.16}
          stroke={palette.ember}
          strokeWidth={unit * 1.4}
        />
      </g>
    </svg>
  )
}
