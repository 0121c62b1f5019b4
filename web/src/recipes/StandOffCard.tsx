import { Box, Flex, Text } from '@chakra-ui/react'
import type { StandOff } from '../api/types'
import { SvgText } from '../plate/SvgText'
import { Card, Section } from '../shared/Parts'
import { written } from '../shared/units'
import { palette } from '../theme/palette'

/** How the head is set for each piece, in the form it is set, with a small drawing of which way it goes. */
export function StandOffCard({ stands }: { stands: StandOff[] }) {
  // Where nobody has said how it is set, saying so once is enough.
  const shown = stands.some(({ height_by }) => height_by !== null) ? stands : stands.slice(0, 1)
  if (shown.length === 0) return null
  return (
    <Card p="4" as="section" aria-label="Height of the head">
      <Section title="Height of the head">
        <Flex direction="column" gap="4">
          {shown.map((one) => (
            <StandOffLine key={one.piece_id ?? 'flat'} stands={one} named={one.height_by !== null} />
          ))}
        </Flex>
      </Section>
    </Card>
  )
}

/** What to do for one piece. */
export function StandOffLine({ stands, named = true }: { stands: StandOff; named?: boolean }) {
  return (
    <Flex gap="3" align="flex-start">
      {stands.height_by && stands.set_mm !== null && <StandOffDrawing stands={stands} />}
      <Box flex="1">
        {named && <Text fontWeight="600">{stands.name}</Text>}
        <Text fontSize="15.5px">{stands.words}</Text>
        {stands.cost && (
          <Text fontSize="14.5px" color="steel" mt="0.5">
            {stands.cost}
          </Text>
        )}
      </Box>
    </Flex>
  )
}

// The drawing is no scale: heights one can tell apart, whatever they are.
const WIDE = 132
const HIGH = 104
const BED = 92
const SURFACE = 72
const OFF = 16

/** Bed, piece, head and focus: which way the offset goes is seen, how far is written. */
function StandOffDrawing({ stands }: { stands: StandOff }) {
  const { offset_mm: offset, set_mm: set, height_by: by } = stands
  const focus = SURFACE - Math.sign(offset) * OFF
  // It is raised with the focus: the beam narrows by as much below it.
  const head = focus - 44
  const fromSurface = by === 'spacer' || by === 'ruler'
  return (
    <svg
      role="img"
      aria-label={
        offset === 0 ? 'Focus on the surface' : `Focus ${offset > 0 ? 'above' : 'below'} the surface`
      }
      width={WIDE}
      height={HIGH}
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      style={{ flexShrink: 0 }}
    >
      <rect x={8} y={SURFACE} width={62} height={BED - SURFACE} fill={palette.lineStrong} />
      <path d={`M2,${BED}H${WIDE - 40}`} stroke={palette.ink2} strokeWidth={2} />
      <rect x={27} y={Math.max(2, head - 10)} width={24} height={10} rx={2} fill={palette.ink2} />
      <path
        d={`M29,${head}L39,${focus}L49,${head}M39,${focus}L${39 - (SURFACE - focus) * 0.23},${SURFACE}M39,${focus}L${39 + (SURFACE - focus) * 0.23},${SURFACE}`}
        fill="none"
        stroke={palette.ember}
        strokeWidth={1.6}
      />
      <circle cx={39} cy={focus} r={2.8} fill={palette.ember} />
      <path
        d={`M66,${head}H82M66,${fromSurface ? SURFACE : BED}H82M76,${head}V${fromSurface ? SURFACE : BED}`}
        fill="none"
        stroke={palette.steel}
        strokeWidth={1.4}
      />
      <SvgText
        x={107}
        y={(head + (fromSurface ? SURFACE : BED)) / 2 + 5}
        size={15}
        weight={700}
        colour={palette.ink}
      >
        {set === null ? '' : written(set)}
      </SvgText>
    </svg>
  )
}
