import { memo } from 'react'
import { palette } from '../theme/palette'
import { SvgText } from './SvgText'
import { placed } from './geometry'
import { thinned } from './edges'
import type { Side } from './edges'

/** An edge in words: what varies there, and its values as texts. */
export interface WordedEdge {
  side: Side
  title: string
  values: { text: string; at: number; room: number; patches: string[] }[]
}

/** How much room the values take beside the plate, in parts of their size. */
export const LINE = 1.35
const A_LETTER = 0.47

export const widest = (edge: WordedEdge | undefined) =>
  Math.max(0, ...(edge?.values.map(({ text }) => text.length) ?? [])) * A_LETTER

interface EdgeValuesProps {
  edges: WordedEdge[]
  width: number
  height: number
  /** One size for all values. */
  size: number
  /** How far from the plate, so that the rulers stay free. */
  away: number
  mirrored: boolean
  titled: boolean
  active: string | null
}

/** The values of every axis at the plate's edges; those of the active patch stand out. */
export const EdgeValues = memo(function EdgeValues(props: EdgeValuesProps) {
  const { edges, width, height, size, away, mirrored, titled, active } = props
  const small = size * 0.86
  return (
    <g aria-hidden="true" data-edges>
      {edges.map((edge) => {
        const upright = edge.side === 'left' || edge.side === 'right'
        const left = edge.side === 'left'
        const over = edge.side === 'above'
        const wide = widest(edge) * size
        const sideX = left ? -away - size * 0.25 : width + size * 0.4
        const lineY = over ? -away - size * 0.3 : height + size * 1.05
        const needs = upright ? size * 1.15 : wide + size * 0.5
        const titleX = left ? sideX - wide - size * 0.45 : sideX + wide + size * 1.1
        return (
          <g key={edge.side}>
            {thinned(edge.values, needs).map(({ text, at, patches }) => {
              const lit = active !== null && patches.includes(active)
              const x = upright ? sideX : placed(at, 0, width, mirrored)
              return (
                <SvgText
                  key={at}
                  x={x}
                  y={upright ? height - at + size * 0.35 : lineY}
                  size={size}
                  weight={lit ? 700 : 500}
                  colour={lit ? palette.ember : palette.ink2}
                  anchor={upright ? (left ? 'end' : 'start') : 'middle'}
                >
                  {text}
                </SvgText>
              )
            })}
            {titled &&
              (upright ? (
                <SvgText
                  x={titleX}
                  y={height / 2}
                  size={small}
                  colour={palette.ink2}
                  transform={`rotate(-90 ${titleX} ${height / 2})`}
                >
                  {edge.title}
                </SvgText>
              ) : (
                <SvgText
                  x={width / 2}
                  y={over ? lineY - size * 1.15 : lineY + size * 1.1}
                  size={small}
                  colour={palette.ink2}
                >
                  {edge.title}
                </SvgText>
              ))}
          </g>
        )
      })}
    </g>
  )
})
