import { Box, Text } from '@chakra-ui/react'
import type { Parameter } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import type { Typed } from './design'
import { TypedField } from './TypedField'

interface FigureFieldProps {
  /** What it is called beside its field, without the unit. */
  name: string
  /** What it is called where its surroundings are not seen. */
  label: string
  value: Typed
  parameter: Parameter
  error?: string
  onType: (text: string) => void
  onLeave: () => void
}

/** A typed figure with its name and my unit above it. */
export function FigureField({ name, parameter, ...field }: FigureFieldProps) {
  const { inventory, units } = useShop()
  const sign = unitSign(unitOf(inventory.units, parameter.quantity, units)?.symbol ?? parameter.unit)
  return (
    <Box flex="1" minW="0">
      <Text fontSize="13px" color="ink2" truncate>
        {name} {sign}
      </Text>
      <TypedField parameter={parameter} {...field} />
    </Box>
  )
}
