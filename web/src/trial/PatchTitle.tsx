import { Flex, Text } from '@chakra-ui/react'
import type { Patch, ProcessKey } from '../api/types'
import { doseOf } from '../plate/DoseRail'
import { Numeral } from '../shared/Parts'
import { useParameter, useParametersOn, useProcess, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { otherSettings } from '../shared/words'

/** What a patch was given: its varied settings large, its dose, the rest in words. */
export function PatchTitle({
  patch,
  process,
  varied,
  compact = false,
}: {
  patch: Patch
  process: ProcessKey
  varied: string[]
  compact?: boolean
}) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn()
  const parameter = useParameter()
  const { dose_unit } = useProcess(process)
  const large = varied.length > 0 ? varied : ['speed_mm_s', 'power_pct']
  return (
    <div>
      <Flex align="baseline" gap="4" wrap="wrap">
        <Text fontWeight="700" fontSize="24px">
          {patch.id}
        </Text>
        {large.map((key) => {
          const { value, unit, others } = shown(
            patch.settings[key] ?? 0,
            parameter(key),
            inventory.units,
            units,
          )
          return (
            <Numeral
              key={key}
              size={compact ? 's' : 'm'}
              value={value}
              unit={unit || parameter(key).name}
              others={others}
            />
          )
        })}
      </Flex>
      <Flex color="ink2" fontSize="14.5px" justify="space-between" gap="3">
        <Text>{otherSettings(patch.settings, parameters, inventory.units, units, new Set(large))}</Text>
        <Text flexShrink="0">
          {doseOf(patch).toPrecision(3)} {dose_unit}
        </Text>
      </Flex>
    </div>
  )
}
