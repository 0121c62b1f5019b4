import { Box, Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Piece, Plate } from '../../api/types'
import { Choice, SelectField } from '../../shared/Fields'
import { leftOf, sizeOf } from '../../shared/words'
import { FigureField } from './FigureField'
import { Fold } from './Fold'
import { ANGLE, LENGTH } from './lengths'
import { PieceMap } from './PieceMap'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'
import { ZeroSettings, zeroWords } from './ZeroSettings'

interface PieceSettingsProps {
  piece: Design['piece']
  place: Design['place']
  fit: Design['fit']
  zero: Design['zero']
  /** Its zero is the middle of its field. */
  galvo: boolean
  /** The piece from the shelf, and those there are of this material. */
  pieceId: Design['piece_id']
  pieceFace: Design['piece_face']
  shelf: Piece[]
  /** The last good plate where it lies on a piece, and its size: a piece begins a little larger. */
  plate: Plate | null
  size: Plate['plate']
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

type PieceFace = NonNullable<Design['piece_face']>
type PieceShape = 'none' | 'rectangle' | 'disc' | 'outline'
type Fit = NonNullable<Design['fit']>
type At = NonNullable<Design['place']>['at']
const CORNER = { at: 'corner' as const, x_mm: 0, y_mm: 0, turn_deg: 0 }
const PLACED = { corner: 'by the corner', centre: 'in the middle', clear: 'on clear ground' }
const FITS: { value: Fit; label: string }[] = [
  { value: 'as_given', label: 'as given' },
  { value: 'more_patches', label: 'as many patches as fit' },
  { value: 'smaller_patches', label: 'patches shrink to fit' },
]

/** How many of several alike are still bare on the back. */
const backLeft = ({ count, left_back: left }: Piece) => ((count ?? 1) > 1 ? `, ${left ?? count} left` : '')

/** The scrap at hand, and where on it the plate lies. */
export const PieceSettings = memo(function PieceSettings(props: PieceSettingsProps) {
  const { piece, place, fit, zero, galvo, pieceId, pieceFace, shelf, plate, size, errors, change, settle } =
    props
  const taken = shelf.find((one) => one.id === pieceId)
  const shape: PieceShape = piece?.shape ?? 'none'
  const take = (chosen: PieceShape) =>
    change((design) => {
      if (chosen === 'none') {
        return { ...design, piece: null, piece_id: null, piece_face: null, place: CORNER, fit: 'as_given' }
      }
      const width = Math.ceil(size.width_mm / 10) * 10 + 10
      const height = Math.ceil(size.height_mm / 10) * 10 + 10
      const side = chosen === 'disc' ? Math.ceil(Math.hypot(width, height) / 10) * 10 : width
      const margin_mm = design.piece?.margin_mm ?? 2
      return {
        ...design,
        piece_id: null,
        piece_face: null,
        piece: { shape: chosen, width_mm: side, height_mm: chosen === 'disc' ? side : height, margin_mm },
        place: { ...CORNER, at: 'centre' },
      }
    })
  const pieceFigure = (key: 'width_mm' | 'height_mm' | 'margin_mm', name: string) => (
    <FigureField
      name={name}
      label={`Piece ${name}`}
      value={piece?.[key]}
      parameter={LENGTH}
      error={errors.get(`piece.${key}`)}
      onType={(text) =>
        change((design) => {
          if (!design.piece) return design
          const both = design.piece.shape === 'disc' && key === 'width_mm' ? { height_mm: text } : {}
          return { ...design, piece: { ...design.piece, [key]: text, ...both } }
        }, `piece.${key}`)
      }
      onLeave={settle}
    />
  )
  const placeFigure = (key: 'x_mm' | 'y_mm' | 'turn_deg', name: string) => (
    <FigureField
      name={name}
      label={`Place ${name}`}
      value={(place ?? CORNER)[key]}
      parameter={key === 'turn_deg' ? ANGLE : LENGTH}
      error={errors.get(`place.${key}`)}
      onType={(text) =>
        change(
          (design) => ({ ...design, place: { ...(design.place ?? CORNER), [key]: text } }),
          `place.${key}`,
        )
      }
      onLeave={settle}
    />
  )
  const fromShelf = (id: number) =>
    change((design) => {
      const placed = design.piece !== null || design.piece_id !== null ? design.place : null
      const round = shelf.some((one) => one.id === id && one.shape === 'disc')
      // A disc has no corner to lay a plate by.
      const place =
        placed && !(round && placed.at === 'corner') ? placed : { ...CORNER, at: 'centre' as const }
      return { ...design, piece: null, piece_id: id, piece_face: null, place }
    })
  const clear = place?.at === 'clear'
  const says = taken
    ? `${taken.name}, from the shelf`
    : piece
      ? `${shape} ${piece.width_mm}${shape === 'disc' ? '' : ` x ${piece.height_mm}`} mm, ${PLACED[(place ?? CORNER).at]}`
      : 'just as large as the plate'
  const zeroed = zeroWords(zero)
  return (
    <Fold
      title="Piece"
      says={zeroed ? `${says}; ${zeroed}` : says}
      errors={errors}
      about={['piece', 'piece_id', 'piece_face', 'place', 'fit', 'zero']}
    >
      <Choice<PieceShape>
        label="Piece"
        value={taken ? '' : shape}
        onPick={take}
        options={[
          { value: 'none', label: 'as the plate' },
          { value: 'rectangle', label: 'rectangle' },
          { value: 'disc', label: 'disc' },
        ]}
      />
      {shelf.length > 0 && (
        <Box mt="2">
          <SelectField
            label="From the shelf"
            value={taken ? String(taken.id) : ''}
            onPick={(id) => id && fromShelf(Number(id))}
            options={[
              { value: '', label: 'none of these' },
              ...shelf.map((one) => ({
                value: String(one.id),
                label: `${one.name}, ${sizeOf(one)}${leftOf(one)}`,
              })),
            ]}
          />
        </Box>
      )}
      {taken && (
        <Flex gap="2" mt="2" align="center" wrap="wrap">
          <Text fontSize="14px" color="ink2">
            Face up
          </Text>
          <Choice<PieceFace>
            label="Face up"
            value={pieceFace ?? 'front'}
            onPick={(face) => change((design) => ({ ...design, piece_face: face === 'front' ? null : face }))}
            options={[
              { value: 'front', label: 'front' },
              { value: 'back', label: `back${backLeft(taken)}` },
            ]}
          />
        </Flex>
      )}
      {(piece || taken) && (
        <>
          <Box my="2">{plate && <PieceMap plate={plate} />}</Box>
          <Flex gap="2" mt="2" hidden={taken !== undefined}>
            {pieceFigure('width_mm', shape === 'disc' ? 'diameter' : 'width')}
            {shape !== 'disc' && pieceFigure('height_mm', 'depth')}
            {pieceFigure('margin_mm', 'margin')}
          </Flex>
          <Flex gap="2" mt="2" align="flex-end">
            <Box flex="1.6">
              <SelectField<At>
                label="Laid from the"
                value={(place ?? CORNER).at}
                onPick={(at) =>
                  change((design) => ({
                    ...design,
                    place: {
                      ...CORNER,
                      turn_deg: design.place?.turn_deg ?? 0,
                      at,
                    },
                  }))
                }
                options={[
                  { value: 'corner', label: 'corner' },
                  { value: 'centre', label: 'middle' },
                  { value: 'clear', label: 'first clear ground' },
                ]}
              />
            </Box>
            {!clear && placeFigure('x_mm', 'right')}
            {!clear && placeFigure('y_mm', 'up')}
            {placeFigure('turn_deg', 'turn')}
          </Flex>
          <Box mt="2">
            <SelectField
              label="Fit"
              value={fit ?? 'as_given'}
              onPick={(chosen) => change((design) => ({ ...design, off: [], fit: chosen }))}
              options={FITS}
            />
          </Box>
        </>
      )}
      <ZeroSettings zero={zero} galvo={galvo} errors={errors} change={change} settle={settle} />
      {errors.has('fit') && (
        <Text role="alert" color="emberOnSoft" fontSize="13px">
          {errors.get('fit')}
        </Text>
      )}
      <Sentences errors={errors} about="piece" />
      <Sentences errors={errors} about="place" />
    </Fold>
  )
})
