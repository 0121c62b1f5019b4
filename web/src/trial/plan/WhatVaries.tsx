import { memo } from 'react'
import { Text } from '@chakra-ui/react'
import type { Plate } from '../../api/types'
import { useParameter, useParametersOn, useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'
import { addedCount, variedKeys } from '../../plate/varied'
import { otherSettings, patchesOf } from '../../shared/words'
import { plannedValues } from './design'

/** In words: what changes, what is held. */
export const WhatVaries = memo(function WhatVaries({ plate }: { plate: Plate }) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn()
  const parameter = useParameter()
  const { trial } = plate
  const part = (key: string, from: number | undefined, to: number | undefined) => {
    const row = parameter(key)
    const first = shown(from ?? 0, row, inventory.units, units)
    const last = shown(to ?? 0, row, inventory.units, units)
    const range = first.value === last.value ? last.value : `${first.value} to ${last.value}`
    return { name: row.name, range: `${range} ${last.unit}`.trim() }
  }
  const parts = trial.listed
    ? variedKeys(trial).map((key) => {
        const values = plate.patches.map((patch) => patch.settings[key] ?? 0)
        return part(key, Math.min(...values), Math.max(...values))
      })
    : trial.axes.map((axis) => {
        const values = plannedValues(plate.patches, axis.parameter, axis.along, Boolean(axis.wrap))
        return part(axis.parameter, values[0], values.at(-1))
      })
  const held = otherSettings(trial.hold ?? {}, parameters, inventory.units, units, new Set())
  return (
    <>
      <Text fontSize="17px">
        {trial.listed &&
          (plate.patches.length === 1 ? 'one patch: ' : `${patchesOf(plate.patches.length)} one by one: `)}
        {parts.map((part, i) => (
          <span key={part.name}>
            {i > 0 && ' and '}
            <strong>{part.name}</strong> {part.range}
          </span>
        ))}
        {addedCount(trial) > 0 && `, and ${patchesOf(addedCount(trial))} one by one beside it`}
      </Text>
      <Text color="ink2" fontSize="15px">
        Held: {held || 'nothing else'}
      </Text>
    </>
  )
})
