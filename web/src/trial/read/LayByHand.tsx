import { Box, Flex, Text } from '@chakra-ui/react'
import { useRef, useState } from 'react'
import type { KeyboardEvent, PointerEvent } from 'react'
import { isFound, usePointCorners } from '../../api/photos'
import type { Photo, Plate, ShownPhoto } from '../../api/types'
import { inDrawing, placed } from '../../plate/geometry'
import { SvgText } from '../../plate/SvgText'
import { Button } from '../../shared/Button'
import { Card } from '../../shared/Parts'
import { sayDone, sayFailed } from '../../shared/toast'
import { onScale, palette } from '../../theme/palette'

/** In pixels of the photo. */
type Point = readonly [number, number]

interface LayByHandProps {
  plate: Plate
  photo: ShownPhoto
  onDone: () => void
}

const NUDGE: Record<string, Point> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
// The loupe shows so much of the photo's longer side.
const LOUPE_SHARE = 0.06

/** The photo as it was taken, with four handles to lay the plate on it; a loupe follows the handle one holds. */
export function LayByHand({ plate, photo, onDone }: LayByHandProps) {
  const { on_marks, places_mm } = photo.handles
  const [corners, setCorners] = useState<Point[]>(() => firstGuess(photo))
  const [held, setHeld] = useState(0)
  const [touched, setTouched] = useState(false)
  const point = usePointCorners()
  const { width, height } = photo
  const move = (index: number, to: Point) => {
    setTouched(true)
    setHeld(index)
    setCorners((before) =>
      before.map((corner, i) =>
        i === index
          ? [Math.min(Math.max(to[0], 0), width - 1), Math.min(Math.max(to[1], 0), height - 1)]
          : corner,
      ),
    )
  }
  const lay = () =>
    point.mutate(
      { photo, mm: places_mm, px: corners.map(([x, y]) => [x, y]) },
      {
        onSuccess: (laid) => {
          setTouched(false)
          setCorners(firstGuess(laid))
          if (laid.doubts.length === 0) sayDone(`The plate lies to ${(laid.residual_mm ?? 0).toFixed(2)} mm.`)
        },
        onError: sayFailed,
      },
    )
  const at = corners[held] ?? [0, 0]
  return (
    <Box>
      <Flex gap="3" align="flex-start" wrap={{ base: 'wrap', lg: 'nowrap' }}>
        <Box flex="1" minW="0">
          <HandledPhoto photo={photo} corners={corners} held={held} onHold={setHeld} onMove={move} />
        </Box>
        <Flex direction="column" gap="3" width={{ base: '100%', lg: '220px' }} flexShrink="0">
          <Enlarged photo={photo} at={at} name={`around handle ${held + 1}`} />
          <Card p="3">
            <Places plate={plate} places={places_mm} mirrored={photo.face === 'back'} held={held} />
            <Text fontSize="14px" mt="2">
              Put each handle on {on_marks ? 'its corner mark' : 'the outer corner of its corner patch'}.
              Arrow keys move it by a pixel.
            </Text>
            <Text
              fontSize="14px"
              mt="2"
              aria-live="polite"
              color={photo.doubts.length ? 'emberOnSoft' : 'ink2'}
            >
              {isFound(photo) && !touched
                ? `Off by ${(photo.residual_mm ?? 0).toFixed(2)} mm. ${photo.doubts.join(' ')}`
                : 'Not laid like this yet.'}
            </Text>
          </Card>
          <Flex gap="2">
            <Button look={touched ? 'ember' : 'quiet'} loading={point.isPending} onClick={lay}>
              Lay it like this
            </Button>
            <Button look={touched ? 'quiet' : 'ember'} onClick={onDone}>
              {touched ? 'Cancel' : 'Done'}
            </Button>
          </Flex>
        </Flex>
      </Flex>
    </Box>
  )
}

function firstGuess(photo: ShownPhoto): Point[] {
  const { at_px } = photo.handles
  if (at_px) return at_px.map(([x = 0, y = 0]) => [x, y])
  const { width, height } = photo
  const across = photo.face === 'back' ? [0.8, 0.2, 0.2, 0.8] : [0.2, 0.8, 0.8, 0.2]
  return across.map((share, i) => [width * share, height * (i < 2 ? 0.2 : 0.8)])
}

const uprightUrl = (photo: Photo) => `/api/plate-photos/${photo.id}/upright`

interface HandledPhotoProps {
  photo: Photo
  corners: Point[]
  held: number
  onHold: (index: number) => void
  onMove: (index: number, to: Point) => void
}

function HandledPhoto({ photo, corners, held, onHold, onMove }: HandledPhotoProps) {
  const svg = useRef<SVGSVGElement>(null)
  const { width, height } = photo
  const unit = Math.max(width, height) / 100
  const inPhoto = (drawing: SVGSVGElement, event: PointerEvent): Point => {
    const place = inDrawing(drawing, event)
    // Pixel (0, 0) is the middle of the first one here, and its corner there.
    return [place.x - 0.5, place.y - 0.5]
  }
  const nudge = (event: KeyboardEvent, index: number, corner: Point) => {
    const step = NUDGE[event.key]
    if (!step) return
    event.preventDefault()
    const by = event.shiftKey ? 10 : 1
    onMove(index, [corner[0] + step[0] * by, corner[1] + step[1] * by])
  }
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${width} ${height}`}
      role="group"
      aria-label="The photo with four handles"
      style={{
        display: 'block',
        width: '100%',
        maxHeight: 'calc(100vh - 190px)',
        touchAction: 'none',
        borderRadius: 10,
      }}
    >
      <image href={uprightUrl(photo)} width={width} height={height} />
      <polygon
        points={corners.map(([x, y]) => `${x + 0.5},${y + 0.5}`).join(' ')}
        fill="none"
        stroke={onScale.pale}
        strokeWidth={unit * 0.2}
        strokeDasharray={`${unit} ${unit * 0.6}`}
      />
      {corners.map((corner, i) => (
        <g
          key={i}
          transform={`translate(${corner[0] + 0.5} ${corner[1] + 0.5})`}
          tabIndex={0}
          role="slider"
          aria-label={`Handle ${i + 1}`}
          aria-valuetext={`${corner[0].toFixed(1)}, ${corner[1].toFixed(1)} pixels`}
          aria-valuenow={Math.round(corner[0])}
          style={{ cursor: 'grab' }}
          onFocus={() => onHold(i)}
          onKeyDown={(event) => nudge(event, i, corner)}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId)
            event.currentTarget.focus()
          }}
          onPointerMove={(event) => {
            if (svg.current && event.currentTarget.hasPointerCapture(event.pointerId))
              onMove(i, inPhoto(svg.current, event))
          }}
        >
          <circle r={unit * 2.6} fill="transparent" />
          <circle r={unit * 1.5} fill="none" stroke={onScale.dark} strokeWidth={unit * 0.5} />
          <circle
            r={unit * 1.5}
            fill="none"
            stroke={i === held ? palette.ember : onScale.pale}
            strokeWidth={unit * 0.28}
          />
          <SvgText x={unit * 2.4} y={-unit * 1.4} size={unit * 2.6} weight={700} colour={onScale.pale}>
            {i + 1}
          </SvgText>
        </g>
      ))}
    </svg>
  )
}

/** The photo around a place, so large that a pixel can be seen, with a cross on it. */
function Enlarged({ photo, at, name }: { photo: Photo; at: Point; name: string }) {
  const side = Math.max(photo.width, photo.height) * LOUPE_SHARE
  const [x, y] = [at[0] + 0.5, at[1] + 0.5]
  const line = { stroke: palette.ember, strokeWidth: side * 0.006 }
  return (
    <Box
      borderRadius="control"
      overflow="hidden"
      bg="line"
      aspectRatio="1"
      width={{ base: '160px', lg: '100%' }}
    >
      <svg
        viewBox={`${x - side / 2} ${y - side / 2} ${side} ${side}`}
        width="100%"
        height="100%"
        role="img"
        aria-label={name}
        style={{ display: 'block', imageRendering: 'pixelated' }}
      >
        <image href={uprightUrl(photo)} width={photo.width} height={photo.height} />
        <path
          d={`M${x - side / 2},${y}H${x - side * 0.05}M${x + side * 0.05},${y}H${x + side / 2}M${x},${y - side / 2}V${y - side * 0.05}M${x},${y + side * 0.05}V${y + side / 2}`}
          {...line}
        />
      </svg>
    </Box>
  )
}

interface PlacesProps {
  plate: Plate
  /** In mm on the plate. */
  places: number[][]
  mirrored: boolean
  held: number
}

/** Which handle belongs where on the plate, as one looks at this face. */
function Places({ plate, places, mirrored, held }: PlacesProps) {
  const { width_mm: width, height_mm: height } = plate.plate
  const unit = Math.max(width, height) / 20
  return (
    <svg
      viewBox={`${-unit} ${-unit} ${width + 2 * unit} ${height + 2 * unit}`}
      width="100%"
      style={{ maxHeight: 130 }}
      role="img"
      aria-label="Where the handles belong on the plate"
    >
      <rect width={width} height={height} rx={unit * 0.3} fill={palette.plate} stroke={palette.lineStrong} />
      {plate.patches.map((patch) => (
        <rect
          key={patch.id}
          x={placed(patch.x_mm, patch.width_mm, width, mirrored)}
          y={height - patch.y_mm - patch.height_mm}
          width={patch.width_mm}
          height={patch.height_mm}
          fill={palette.line}
        />
      ))}
      {places.map(([x = 0, y = 0], i) => (
        <g key={i} transform={`translate(${placed(x, 0, width, mirrored)} ${height - y})`}>
          <circle r={unit * 1.1} fill={i === held ? palette.ember : palette.ink} />
          <SvgText x={0} y={unit * 0.5} size={unit * 1.5} weight={700} colour={palette.card}>
            {i + 1}
          </SvgText>
        </g>
      ))}
    </svg>
  )
}
