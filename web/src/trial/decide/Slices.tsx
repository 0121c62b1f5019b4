import { Flex, Text } from '@chakra-ui/react'
import type { SliceData } from '../../api/types'
import { Choice } from '../../shared/Fields'
import { useParameter, useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'

interface SlicesProps {
  slices: SliceData[]
  onSlice: (parameter: string, value: number) => void
}

/** What other plates vary beside this one's own settings: which of it the map shows. */
export function Slices({ slices, onSlice }: SlicesProps) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  if (slices.length === 0) return null
  return (
    <Flex mt="3" gap="4" wrap="wrap">
      {slices.map(({ parameter: key, values, at }) => (
        <Flex key={key} align="center" gap="2">
          <Text fontSize="14.5px">The map shows {parameter(key).name}</Text>
          <Choice
            label={`The map shows ${parameter(key).name}`}
            value={String(at)}
            onPick={(value) => onSlice(key, Number(value))}
            options={values.map((value) => {
              const { value: number, unit } = shown(value, parameter(key), inventory.units, units)
              return { value: String(value), label: `${number} ${unit}`.trim() }
            })}
          />
        </Flex>
      ))}
    </Flex>
  )
}
