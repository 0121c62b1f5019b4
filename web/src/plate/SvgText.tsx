import type { ReactNode } from 'react'

interface SvgTextProps {
  x: number
  y: number
  size: number
  colour: string
  weight?: number
  anchor?: 'start' | 'middle' | 'end'
  transform?: string
  children: ReactNode
}

/** Text in a drawing. Its size stands in a style, since the app's reset outranks SVG's own attributes. */
export function SvgText({
  x,
  y,
  size,
  colour,
  weight = 400,
  anchor = 'middle',
  transform,
  children,
}: SvgTextProps) {
  return (
    <text
      x={x}
      y={y}
      textAnchor={anchor}
      fill={colour}
      transform={transform}
      style={{ fontSize: `${size}px`, fontWeight: weight }}
    >
      {children}
    </text>
  )
}
