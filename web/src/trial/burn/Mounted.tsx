import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { Choice } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'

interface Mounted {
  /** The machine has but one, or the right one is on it. */
  right: boolean
  /** What somebody has seen on the machine; null where nothing is asked. */
  head: number | null
  /** The question, where there is one. */
  question: React.ReactNode
}

/** Which lens is on the machine: asked before every start where it has several, whatever the plan says. */
export function useMounted(planned: number): Mounted {
  const { inventory } = useShop()
  const [seen, setSeen] = useState<number | null>(null)
  const head = inventory.heads.find((one) => one.id === planned)
  const there = inventory.heads.filter((one) => one.machine_id === head?.machine_id && !one.retired)
  if (!head || there.length < 2) return { right: true, head: null, question: null }
  const other = there.find((one) => one.id === seen && one.id !== planned)
  return {
    right: seen === planned,
    head: seen,
    question: (
      <Flex direction="column" gap="1.5" mt="2">
        <Text fontWeight="600">Which is on {head.machine}?</Text>
        <Choice
          label={`What is mounted on ${head.machine}`}
          value={seen === null ? '' : String(seen)}
          options={there.map((one) => ({ value: String(one.id), label: one.name }))}
          onPick={(id) => setSeen(Number(id))}
        />
        {other && (
          <Text role="alert" color="emberOnSoft" fontSize="14.5px">
            This plate is for {head.name}. Change the lens, or plan it for {other.name}.
          </Text>
        )}
      </Flex>
    ),
  }
}
