import { Box, Flex, Text } from '@chakra-ui/react'
import { useBook } from '../api/hooks'
import type { ProcessKey } from '../api/types'
import { EquipmentFilter, useFilter } from '../shared/EquipmentFilter'
import { Choice, TextField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { RecipeRow } from './RecipeRow'

/** What the shop knows, found by text, machine, material and process; the filter stands in the address. */
export function BookPage() {
  const { inventory } = useShop()
  const filter = useFilter()
  const { text, head, material } = filter
  const process = inventory.processes.find((one) => one.key === filter.process)?.key ?? null
  const book = useBook({ text, head, material, process })
  const used = new Set<ProcessKey>(inventory.materials.flatMap((one) => one.processes))
  const filtered = text !== '' || head !== null || material !== null || process !== null
  return (
    <Box maxW="1080px">
      <PageTitle>What the shop knows</PageTitle>
      <Flex gap="3" wrap="wrap" mb="3" align="center">
        <Choice
          label="Process"
          value={process ?? ''}
          onPick={(value) => filter.set('process', value)}
          options={[
            { value: '', label: 'Everything' },
            ...inventory.processes
              .filter((one) => used.has(one.key))
              .map((one) => ({ value: one.key, label: one.name })),
          ]}
        />
      </Flex>
      <Flex gap="3" wrap="wrap" mb="4">
        <Box flex="1" minW="200px">
          <TextField
            label="Find"
            hideLabel
            placeholder="material, machine, purpose, note, name"
            value={text}
            onChange={(event) => filter.set('text', event.currentTarget.value)}
          />
        </Box>
        <EquipmentFilter filter={filter} />
      </Flex>
      {book.isError && <Failure error={book.error} retry={() => void book.refetch()} />}
      {book.isPending && <Waiting what="the book" height="200px" />}
      {book.data?.length === 0 && (
        <Nothing>
          {filtered
            ? 'Nothing in the book matches. Take a word away, or ask for it and plan an array.'
            : 'The book is empty. Burn a plate, read it, and keep its best patch.'}
        </Nothing>
      )}
      <Flex direction="column" gap="2" role="list" aria-label="Recipes">
        {book.data?.map((recipe) => (
          <RecipeRow key={recipe.id} recipe={recipe} />
        ))}
      </Flex>
      {book.data && book.data.length > 0 && (
        <Text color="ink2" mt="3" fontSize="14.5px">
          {book.data.length} {book.data.length === 1 ? 'recipe' : 'recipes'}
        </Text>
      )}
      <KeysHelp hints={[]} />
    </Box>
  )
}
