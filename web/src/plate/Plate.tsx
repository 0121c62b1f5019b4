import { memo, useId } from 'react'
import type { KeyboardEvent, MouseEvent, ReactNode, Ref } from 'react'
import type { Patch, Plate as PlateData, PlateText } from '../api/types'
import { palette } from '../theme/palette'
import { inDrawing, nearestPatch, placed, ticks } from './geometry'
import { EdgeValues, LINE, widest } from './EdgeValues'
import type { Side } from './edges'
import { useFigures } from './useFigures'
import { useWordedEdges } from './useWordedEdges'
import { Marks } from './Marks'
import { PhotoOfPlate } from './PhotoOfPlate'
import { PatchFace } from './PatchFace'
import { PatchNumbers } from './PatchNumbers'
import { SvgText } from './SvgText'
import './plate.css'

export type PickEvent = Pick<MouseEvent, 'shiftKey' | 'ctrlKey' | 'metaKey'>

interface PlateProps {
  plate: PlateData
  texts: PlateText[]
  /** What the plate is, for those who do not see it. */
  label: string
  fill: (patch: Patch) => string
  /** What lies over a patch; drawn in a box of the patch's size with its upper left at 0, 0. */
  over?: (patch: Patch) => ReactNode
  /** What a patch that burns is called when it is read aloud. */
  name: (patch: Patch) => string
  active?: string | null
  onPick?: (id: string, event: PickEvent) => void
  onKeyDown?: (event: KeyboardEvent) => void
  /** What lies under the patches, likewise. */
  below?: ReactNode
  /** What lies over the whole plate, in its millimetres with y down. */
  above?: ReactNode
  /** The flattened photo of this face, which shows lettering and marks itself. */
  photo?: string
  /** Seen from the back: turned like a page. */
  mirrored?: boolean
  /** Whether the axes say what they are: not where that stands beside the plate already. */
  titled?: boolean
  ref?: Ref<SVGSVGElement>
}

/** The plate, drawn to scale with millimetre rulers: the one component every stage shares. */
export function Plate(props: PlateProps) {
  const { plate, texts, mirrored = false, titled = true, active, onPick, onKeyDown, ref } = props
  const { width_mm: width, height_mm: height } = plate.plate
  const prefix = useId()
  const figures = useFigures(plate)
  // Rulers keep a constant share of the picture, however large the plate is.
  const ruler = Math.max(width, height) * 0.055
  const worded = useWordedEdges(plate)
  const size = ruler * 0.62
  const of = (side: Side) => worded.find((edge) => edge.side === side)
  const titleRoom = titled ? size * 1.15 : 0
  // Values stand outside the rulers; where an axis has none there is no room kept for it.
  const left = ruler + (of('left') ? widest(of('left')) * size + size * 0.4 + titleRoom : 0)
  const top = ruler + (of('above') ? size * LINE + titleRoom : 0)
  const right = of('right') ? widest(of('right')) * size + size * 0.8 + titleRoom : ruler * 0.4
  const below = of('below') ? size * LINE + titleRoom : ruler * 0.4
  const optionId = (id: string) => `${prefix}-${id}`
  const pickNear = (event: MouseEvent<SVGRectElement>) => {
    const at = inDrawing(event.currentTarget, event)
    const id = nearestPatch(plate.patches, placed(at.x, 0, width, mirrored), height - at.y)
    if (id) onPick?.(id, event)
  }
  return (
    <svg
      ref={ref}
      className="plate"
      viewBox={`${-left} ${-top} ${width + left + right} ${height + top + below}`}
      role="listbox"
      aria-label={props.label}
      aria-activedescendant={active ? optionId(active) : undefined}
      tabIndex={0}
      onKeyDown={onKeyDown}
      data-plate
    >
      <Rulers width={width} height={height} size={ruler} />
      <EdgeValues
        edges={worded}
        width={width}
        height={height}
        size={size}
        away={ruler}
        mirrored={mirrored}
        titled={titled}
        active={active ?? null}
      />
      <rect
        x={0}
        y={0}
        width={width}
        height={height}
        rx={Math.max(width, height) * 0.012}
        fill={palette.plate}
        stroke={palette.lineStrong}
        strokeWidth={ruler * 0.04}
      />
      {props.photo && <PhotoOfPlate href={props.photo} width={width} height={height} mirrored={mirrored} />}
      {!mirrored &&
        !props.photo &&
        texts.map((text, i) => (
          <Lettering key={i} path={text.path} size={text.height_mm} x={text.x_mm} y={height - text.y_mm} />
        ))}
      {!props.photo && <Marks plate={plate} mirrored={mirrored} />}
      {props.below}
      {onPick && (
        // Between the patches lies the nearest: a finger is wider than a gap.
        <rect width={width} height={height} fill="transparent" onClick={pickNear} data-between />
      )}
      {plate.patches.map((patch) => (
        <g
          key={patch.id}
          id={optionId(patch.id)}
          role="option"
          aria-selected={patch.id === active}
          aria-label={patch.burn ? props.name(patch) : `${patch.id}, left out`}
          data-patch={patch.id}
          transform={`translate(${placed(patch.x_mm, patch.width_mm, width, mirrored)} ${height - patch.y_mm - patch.height_mm})`}
          onClick={onPick && ((event) => onPick(patch.id, event))}
          className={onPick ? 'patch pickable' : 'patch'}
        >
          <PatchFace
            figure={figures(patch)}
            mirrored={mirrored}
            width={patch.width_mm}
            height={patch.height_mm}
            fill={patch.burn ? props.fill(patch) : 'none'}
            pointerEvents="all"
            stroke={patch.burn ? 'none' : palette.control}
            strokeDasharray={patch.burn ? undefined : `${ruler * 0.1} ${ruler * 0.1}`}
            strokeWidth={ruler * 0.03}
          />
          {patch.id === active && <Ring patch={patch} unit={ruler} />}
          {props.over?.(patch)}
        </g>
      ))}
      <PatchNumbers
        plate={plate}
        lettered={texts.some((text) => text.kind === 'column')}
        mirrored={mirrored}
        active={active ?? null}
      />
      {props.above}
    </svg>
  )
}

/** The active patch: a ring of ink, and one of card outside it. */
function Ring({ patch, unit }: { patch: Patch; unit: number }) {
  const inner = unit * 0.09
  return (
    <>
      {[
        { by: inner * 1.6, width: unit * 0.09, colour: palette.card },
        { by: inner * 0.6, width: unit * 0.13, colour: palette.ink },
      ].map(({ by, width, colour }) => (
        <rect
          key={colour}
          x={-by}
          y={-by}
          width={patch.width_mm + 2 * by}
          height={patch.height_mm + 2 * by}
          rx={by}
          fill="none"
          stroke={colour}
          strokeWidth={width}
          pointerEvents="none"
        />
      ))}
    </>
  )
}

/** A line of the plate's own lettering, stroke by stroke as it will be burned. */
const Lettering = memo(function Lettering({
  path,
  size,
  x,
  y,
}: {
  path: string
  size: number
  x: number
  y: number
}) {
  return (
    <path
      d={path}
      transform={`translate(${x} ${y}) scale(${size} ${-size})`}
      fill="none"
      stroke={palette.ink2}
      strokeWidth={0.11}
      strokeLinecap="round"
      strokeLinejoin="round"
    />
  )
})

const Rulers = memo(function Rulers({
  width,
  height,
  size,
}: {
  width: number
  height: number
  size: number
}) {
  const font = size * 0.46
  const line = { stroke: palette.control, strokeWidth: size * 0.025 }
  const xs = ticks(width)
  const ys = ticks(height)
  return (
    <g aria-hidden="true" className="ruler">
      {xs.map((x) => (
        <line key={x} x1={x} x2={x} y1={-size * 0.12} y2={-size * (x % 50 === 0 ? 0.36 : 0.24)} {...line} />
      ))}
      <SvgText x={0} y={-size * 0.48} size={font} colour={palette.ink2}>
        0
      </SvgText>
      <SvgText x={width} y={-size * 0.48} size={font} colour={palette.ink2} anchor="end">
        {width.toFixed(1)} mm
      </SvgText>
      {ys.map((y) => (
        <line
          key={y}
          y1={height - y}
          y2={height - y}
          x1={-size * 0.12}
          x2={-size * (y % 50 === 0 ? 0.36 : 0.24)}
          {...line}
        />
      ))}
      <SvgText
        x={-size * 0.48}
        y={0}
        size={font}
        colour={palette.ink2}
        anchor="end"
        transform={`rotate(-90 ${-size * 0.48} 0)`}
      >
        {height.toFixed(1)} mm
      </SvgText>
    </g>
  )
})
