import type { ReactNode } from 'react'

interface SvgTextProps {
  x: number
  y: number
  size: number
  colour: string
  weight?: number
  anchor?: 'start' | 'middle' | 'end'
  transform?: string
  /** A colour round the letters, where something else would run through them. */
  halo?: string
  children: ReactNode
}

const haloed = (colour: string, size: number) =>
  ({ paintOrder: 'stroke', stroke: colour, strokeWidth: size * 0.22, strokeLinejoin: 'round' }) as const

/** Text in a drawing. Its size stands in a style, since the app's reset outranks SVG's own attributes. */
export function SvgText({
  x,
  y,
  size,
  colour,
  weight = 400,
  anchor = 'middle',
  transform,
  halo,
  children,
}: SvgTextProps) {
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fill={colour}
      transform={transform}
      style={{ fontSize: `${size}px`, fontWeight: weight, ...(halo && haloed(halo, size)) }}
    >
      {children}
    </text>
  )
}
