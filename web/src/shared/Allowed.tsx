import { Text } from '@chakra-ui/react'
import type { Inventory, Me } from '../api/types'
import { useShop } from './ShopContext'

type Role = Me['role']

const reaches = (inventory: Inventory, role: Role, least: Role) =>
  inventory.roles.some((one) => one.key === role && one.reach.includes(least))

/** The names of those whose role reaches as far as `least`. */
export function whoMay(inventory: Inventory, least: Role): string[] {
  return inventory.members
    .filter((one) => !one.retired && reaches(inventory, one.role, least))
    .map((one) => one.name)
}

/** What I may not do says who can. Shows nothing to those who may. */
export function AskSomebody({ least, to }: { least: Role; to: string }) {
  const { inventory, me } = useShop()
  if (reaches(inventory, me.role, least)) return null
  const names = whoMay(inventory, least).slice(0, 3)
  return (
    <Text fontSize="14px" color="ink2">
      You are here as {me.role}. To {to}, ask a {least}
      {names.length > 0 && `: ${names.join(', ')}`}.
    </Text>
  )
}
