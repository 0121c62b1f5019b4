import { memo } from 'react'
import { Text } from '@chakra-ui/react'
import type { Plate } from '../../api/types'
import { useParameter, useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'
import { otherSettings } from '../../shared/words'
import { plannedValues } from './design'

/** In words: what changes, what is held. */
export const WhatVaries = memo(function WhatVaries({ plate }: { plate: Plate }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const { trial } = plate
  const parts = trial.axes.map((axis) => {
    const row = parameter(axis.parameter)
    const values = plannedValues(plate.patches, axis.parameter, axis.along, Boolean(axis.wrap))
    const first = shown(values[0] ?? 0, row, inventory.units, units)
    const last = shown(values.at(-1) ?? 0, row, inventory.units, units)
    return { name: row.name, range: `${first.value} to ${last.value} ${last.unit}`.trim() }
  })
  const held = otherSettings(trial.hold, inventory.parameters, inventory.units, units, new Set())
  return (
    <>
      <Text fontSize="17px">
        {parts.map((part, i) => (
          <span key={part.name}>
            {i > 0 && ' and '}
            <strong>{part.name}</strong> {part.range}
          </span>
        ))}
      </Text>
      <Text color="ink2" fontSize="15px">
        Held: {held || 'nothing else'}
      </Text>
    </>
  )
})
