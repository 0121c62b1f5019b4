import { Box, Flex, Text } from '@chakra-ui/react'
import type { OutcomeMapData, Process } from '../../api/types'
import { useParameter, useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'
import { expectedOf } from '../../recipes/aims'
import { isGuess, secondsWords } from './outcomeMap'
import type { Probed } from './outcomeMap'

interface ProbeProps {
  /** Whether a line of one dose is drawn. */
  dose: boolean
  /** Whether it comes out in steps, one of which is wanted. */
  inSteps: boolean
  probed: { map: OutcomeMapData; at: Probed } | null
  process: Process
  unit: number
}

/** What to expect at the place one points at. */
export function Probe({ probed, dose, inSteps, process, unit }: ProbeProps) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  if (!probed)
    return (
      <Text fontSize="14.5px" color="ink2" mt="2" minH="44px">
        Drag over the plate to see what to expect anywhere on it. Hatched is only guessed
        {inSteps
          ? '; on the lines so many fresh sheets in 100 come out, on the dashed one it holds'
          : '; on the lines it has one lightness'}
        {dose && '; the pale line has one dose'}.
      </Text>
    )
  const { map, at } = probed
  const said = [map.x, map.y].map((edge, i) => {
    const { value, unit: symbol } = shown(
      Number((i === 0 ? at.x : at.y).toPrecision(3)),
      parameter(edge.parameter),
      inventory.units,
      units,
    )
    return `${value} ${symbol}`.trim()
  })
  const predicted = { [map.key]: at.expected, low: at.low, high: at.high }
  return (
    <Flex mt="2" gap="4" wrap="wrap" minH="44px" align="baseline" aria-live="off" data-probe>
      <Text fontFamily="numeral" fontWeight="700" fontSize="24px" lineHeight="1.1">
        {said.join('  ')}
      </Text>
      <Box flex="1" minW="220px" fontSize="14.5px">
        <Text>
          {isGuess(map, at.low, at.high) && 'Only guessed: '}
          {expectedOf(predicted)}
        </Text>
        <Text color="ink2">
          {at.dose.toPrecision(3)} {process.dose_unit}, {secondsWords(at.seconds)} for{' '}
          {unit.toLocaleString('en')} {process.fills ? 'mm²' : 'mm'}
        </Text>
      </Box>
    </Flex>
  )
}
