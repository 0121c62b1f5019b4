import { memo } from 'react'
import type { Figure } from '../api/types'
import { SvgText } from './SvgText'
import { onScale, palette } from '../theme/palette'
import { onOutcome, outcomeColour } from './scales'

interface Box {
  width: number
  height: number
}

const smaller = ({ width, height }: Box) => Math.min(width, height)

interface WordProps {
  figure: Figure
  height: number
  colour: string
  text: string
  /** How many characters the longest of its kind has: all of them have one size. */
  longest?: number
  /** What lies below it, so that nothing runs through it. */
  ground?: string
}

/** A word or number where a patch is broad; none where it is broad nowhere. */
export function Word({ figure, height, colour, text, longest = text.length, ground }: WordProps) {
  if (figure.word_room_mm === 0) return null
  const size = Math.min(height * 0.36, (figure.word_room_mm / Math.max(longest, 3)) * 1.55)
  return (
    <SvgText
      x={figure.word_x_mm}
      y={height / 2 + size * 0.35}
      size={size}
      weight={700}
      colour={colour}
      halo={ground}
    >
      {text}
    </SvgText>
  )
}

/** One of several that are scored together: a dashed frame in steel. */
export function Selected({ width, height }: Box) {
  const line = smaller({ width, height }) * 0.07
  return (
    <rect
      x={-line}
      y={-line}
      width={width + 2 * line}
      height={height + 2 * line}
      rx={line}
      fill="none"
      stroke={palette.steel}
      strokeWidth={line}
      strokeDasharray={`${line * 2.4} ${line * 1.2}`}
      pointerEvents="none"
    />
  )
}

/** Danger: hatched in card colour, with a triangle in the corner. */
export const Danger = memo(function Danger({ width, height }: Box) {
  const size = smaller({ width, height })
  const step = size * 0.17
  const lines = Array.from({ length: Math.ceil((width + height) / step) }, (_, i) => (i + 0.5) * step)
  const path = lines
    .map((at) => {
      const x1 = Math.max(0, at - height)
      const x2 = Math.min(at, width)
      return `M${x1},${at - x1}L${x2},${at - x2}`
    })
    .join('')
  const t = size * 0.2
  return (
    <g pointerEvents="none">
      <path d={path} stroke={onScale.pale} strokeWidth={size * 0.022} opacity={0.55} />
      <path
        d={`M${width - t * 0.65},${t * 0.18}l${t * 0.5},${t * 0.88}h${-t}z`}
        fill={onScale.pale}
        stroke={palette.ember}
        strokeWidth={size * 0.025}
        strokeLinejoin="round"
      />
    </g>
  )
})

/** Set by hand: a pencil's corner at the lower left. */
export function ByHand({ width, height }: Box) {
  const t = smaller({ width, height }) * 0.3
  return (
    <path
      d={`M0,${height - t}V${height}H${t}Z`}
      fill={palette.steel}
      stroke={onScale.pale}
      strokeWidth={t * 0.08}
      pointerEvents="none"
    />
  )
}

/** Corners that get far more than the straights, since the head slows there. */
export function HotCorners({ figure, ...box }: Box & { figure: Figure }) {
  const r = smaller(box) * 0.09
  return (
    <g fill={palette.ember} stroke={onScale.pale} strokeWidth={r * 0.18} pointerEvents="none">
      {figure.sharpest_corners.map(([x = 0, y = 0]) => (
        <circle key={`${x} ${y}`} cx={x} cy={box.height - y} r={r} />
      ))}
    </g>
  )
}

/** The patch would stay bare or is not reached: crossed out rather than coloured. */
export function Crossed({ width, height }: Box) {
  return (
    <path
      d={`M0,0L${width},${height}M0,${height}L${width},0`}
      stroke={palette.control}
      strokeWidth={smaller({ width, height }) * 0.04}
      pointerEvents="none"
    />
  )
}

/** The same glyph on the patch's corner, where it leaves a photo, or an intricate figure, to be seen. */
export function CornerGlyph({ share = 0.78, ...glyph }: GlyphProps & { share?: number }) {
  const side = smaller(glyph) * share
  return (
    <g transform={`translate(${glyph.width - side * 0.5} ${-side * 0.5})`} pointerEvents="none">
      <OutcomeGlyph {...glyph} width={side} height={side} />
    </g>
  )
}

interface GlyphProps extends Box {
  outcome: number | null
  most: number
  /** One cannot tell. */
  unsure?: boolean
  notBurned?: boolean
}

/** How a patch came out: one glyph with its digit for all stages. */
export function OutcomeGlyph({
  width,
  height,
  outcome,
  most,
  unsure = false,
  notBurned = false,
}: GlyphProps) {
  const r = smaller({ width, height }) * 0.27
  const centre = { cx: width / 2, cy: height / 2, r }
  if (notBurned) {
    return (
      <path d={`M${width / 2 - r},${height / 2}h${2 * r}`} stroke={palette.ink3} strokeWidth={r * 0.28} />
    )
  }
  if (outcome === null && !unsure) {
    return (
      <circle
        {...centre}
        fill="none"
        stroke={palette.control}
        strokeWidth={r * 0.1}
        strokeDasharray={`${r * 0.3}`}
      />
    )
  }
  const fill = outcome === null ? palette.card : outcomeColour(outcome, most)
  const ink = outcome === null ? palette.ink : onOutcome(outcome, most)
  return (
    <g pointerEvents="none">
      <circle
        {...centre}
        fill={fill}
        stroke={outcome === null ? palette.ember : palette.card}
        strokeWidth={r * 0.13}
      />
      <SvgText x={width / 2} y={height / 2 + r * 0.46} size={r * 1.3} weight={700} colour={ink}>
        {outcome ?? '?'}
      </SvgText>
    </g>
  )
}
