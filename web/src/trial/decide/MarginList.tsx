import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { Fragment } from 'react'
import type { Neighbour } from '../../api/types'
import { useParameter, useShop } from '../../shared/ShopContext'
import { shown, written } from '../../shared/units'
import { capital } from '../../shared/words'

interface MarginListProps {
  outcome: number | null
  words: string[]
  cut: boolean
  /** Nothing to work by: it has no margins, only neighbours. */
  failed: boolean
  neighbours: Neighbour[]
}

/** What the neighbours of a patch came out as, and how far it holds in each direction. */
export function MarginList({ outcome, words, cut, failed, neighbours }: MarginListProps) {
  if (outcome === null) return <Text>This patch has not been read, so nothing can be said of it.</Text>
  return (
    <Box>
      <Text fontSize="16px">
        It came out <strong>{words[outcome]}</strong>
        {failed ? ': nothing to work by.' : '.'}
      </Text>
      <Grid
        templateColumns="auto 1fr"
        columnGap="3"
        rowGap="1.5"
        mt="2"
        fontSize="15px"
        alignItems="baseline"
      >
        {neighbours.map((neighbour) => (
          <Fragment key={neighbour.patch}>
            <Text color="ink2" whiteSpace="nowrap">
              {capital(neighbour.direction)}
            </Text>
            <Sentence neighbour={neighbour} words={words} cut={cut} />
          </Fragment>
        ))}
      </Grid>
    </Box>
  )
}

function Sentence({ neighbour, words, cut }: { neighbour: Neighbour; words: string[]; cut: boolean }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const at = (value: number) => {
    const { value: number, unit } = shown(value, parameter(neighbour.parameter), inventory.units, units)
    return `${number} ${unit}`.trim()
  }
  if (neighbour.outcome === null) {
    return (
      <Text color="ink2">
        {neighbour.patch} at {at(neighbour.value)} was not read
      </Text>
    )
  }
  const came = words[neighbour.outcome]
  if (neighbour.holds === null) {
    return (
      <Text>
        <strong>{came}</strong> at {at(neighbour.value)}
      </Text>
    )
  }
  const holds = neighbour.holds
  return (
    <Flex gap="2" align="baseline">
      <Text aria-hidden="true" color={holds ? 'moss' : 'emberOnSoft'} fontWeight="700" width="14px">
        {holds ? '✓' : '✗'}
      </Text>
      <Text>
        {holds ? (
          <>
            holds to <strong>{at(neighbour.holds_to)}</strong> ({written(neighbour.margin_pct, 2)} %
            {neighbour.open_end ? ', as far as was read' : ''})
          </>
        ) : (
          <>
            {cut ? 'fails' : 'looks different'} at {at(neighbour.value)}: <strong>{came}</strong>
          </>
        )}
      </Text>
    </Flex>
  )
}
