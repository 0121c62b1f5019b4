import { Box, Flex, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import type { Figures, Process } from '../../api/types'
import { asShade, labCss } from '../../shared/shades'

interface MeasuredFiguresProps {
  process: Process
  front: Figures | undefined
  back: Figures | undefined
  /** The reference card was in the picture. */
  card: boolean
}

interface Shown {
  name: string
  value: string
  unit: string
  title?: string
}

const figure = (
  name: string,
  value: number | null | undefined,
  digits: number,
  unit: string,
  title?: string,
) => (value === null || value === undefined ? [] : [{ name, value: value.toFixed(digits), unit, title }])

function ofCut(front: Figures | undefined, back: Figures | undefined): Shown[] {
  const outline = back?.open_outline
  return [
    ...figure('outline open', outline === null || outline === undefined ? null : 100 * outline, 0, '%'),
    ...figure('longest bridge', back?.holding_mm, 1, 'mm'),
    ...figure('kerf', back?.kerf_mm ?? front?.kerf_mm, 2, 'mm'),
    ...figure('halo', front?.halo_mm, 1, 'mm', 'Darkened ground beside the cut, seen from the front'),
  ]
}

function ofMark(front: Figures | undefined): Shown[] {
  const unsure = front?.lightness_unsure
  const title =
    unsure === null || unsure === undefined ? undefined : `L*, one standard deviation ${unsure.toFixed(1)}`
  return [
    ...figure('lightness', front?.lightness, 0, 'L*', title),
    ...figure('to the ground', front?.contrast, 0, 'L*'),
    ...figure('scatter', front?.evenness, 1, 'L*', 'How much the lightness varies within the patch'),
  ]
}

/** What the photos measure on a patch, in a column beside them. */
export function MeasuredFigures({ process, front, back, card }: MeasuredFiguresProps) {
  const shown = process.passes_through ? ofCut(front, back) : ofMark(front)
  if (shown.length === 0) return null
  const mark = !process.passes_through
  return (
    <Flex
      direction="column"
      gap="1.5"
      role="group"
      aria-label="Measured from the photos"
      width="104px"
      flexShrink="0"
    >
      {front && front.lightness !== null && mark && <Swatch front={front} />}
      {shown.map(({ name, value, unit, title }) => (
        <Box key={name} title={title}>
          <Text fontSize="12.5px" fontWeight="600" color="ink2" lineHeight="1.1">
            {name}
          </Text>
          <Text fontFamily="numeral" fontWeight="700" fontSize="23px" lineHeight="1.1">
            {value}
            <Text as="span" fontFamily="body" fontWeight="400" fontSize="13.5px" color="ink2" ml="1">
              {unit}
            </Text>
          </Text>
        </Box>
      ))}
      {mark && front && front.lightness !== null && (
        <RouterLink
          to={`/book?view=look&shade=${asShade([front.lightness, front.a ?? 0, front.b ?? 0])}`}
          style={{ textDecoration: 'underline', fontSize: '13.5px' }}
        >
          Find this look
        </RouterLink>
      )}
      {mark && !card && (
        <Text fontSize="12.5px" color="ink2" lineHeight="1.25">
          {front?.flags.includes('ground_assumed')
            ? "Rough: the material's colour is not known."
            : 'Without a reference card: good within this photo.'}
        </Text>
      )}
    </Flex>
  )
}

/** The measured colour itself. */
function Swatch({ front }: { front: Figures }) {
  const { lightness, a, b } = front
  return (
    <Box
      width="100%"
      height="34px"
      borderRadius="control"
      borderWidth="1px"
      borderColor="lineStrong"
      role="img"
      aria-label={`Colour: L* ${lightness?.toFixed(0)}, a* ${a?.toFixed(0)}, b* ${b?.toFixed(0)}`}
      style={{ background: labCss([lightness ?? 0, a ?? 0, b ?? 0]) }}
    />
  )
}
