import { Text } from '@chakra-ui/react'
import { useShop } from '../shared/ShopContext'
import { EquipmentForm } from './EquipmentForm'
import { assumedOf, headFields, machineFields } from './fields'
import type { Values } from './fields'

/** A new source brings along what such machines usually have. */
export function useFollowSource() {
  const { inventory } = useShop()
  return (key: string, values: Values): Values => {
    if (key !== 'source') return values
    const source = inventory.forms.sources.find((one) => one.key === values.source)
    const start = source?.start ?? {}
    return { ...values, ...start, wavelength_nm: source?.wavelength_nm, assumed: Object.keys(start) }
  }
}

/** A machine in seven answers; the rest is filled with what such machines usually have, and marked as assumed. */
export function NewMachine({ onDone }: { onDone: (id?: number) => void }) {
  const { inventory } = useShop()
  const follow = useFollowSource()
  const stored = follow('source', { name: '', source: 'co2_glass', power_mode: 'constant' })
  const heads = headFields(inventory, null).map((field) => ({
    ...field,
    more: true,
    ...(field.key === 'name' && { key: 'head_name', label: 'Head or lens', needed: false }),
  }))
  return (
    <>
      <Text fontWeight="600" fontSize="18px" mb="3">
        A new machine
      </Text>
      <EquipmentForm
        kind="machine"
        row={null}
        stored={stored}
        fields={(values) => [
          ...machineFields(inventory, String(values.source), String(values.motion)),
          ...heads,
        ]}
        follow={(key, values) => {
          const next = follow(key, values)
          // Start values are figures; a form holds texts.
          return Object.fromEntries(
            Object.entries(next).map(([name, value]) => [
              name,
              typeof value === 'number' ? String(value) : value,
            ]),
          )
        }}
        split={(facts) => {
          const ofHead = (key: string) => heads.some((field) => field.key === key)
          const assumed = assumedOf(facts)
          const head: Values = { assumed: assumed.filter(ofHead) }
          const machine: Values = {}
          for (const [key, value] of Object.entries(facts)) {
            if (key === 'head_name') head.name = value
            else if (ofHead(key)) head[key] = value
            else machine[key] = value
          }
          return { facts: { ...machine, assumed: assumed.filter((key) => !ofHead(key)) }, heads: [head] }
        }}
        onDone={onDone}
      />
    </>
  )
}
