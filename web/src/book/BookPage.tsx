import { Box, Flex, Text } from '@chakra-ui/react'
import { useBook, useFailed } from '../api/hooks'
import type { ProcessKey } from '../api/types'
import { Button } from '../shared/Button'
import { EquipmentFilter, useFilter } from '../shared/EquipmentFilter'
import type { Filter } from '../shared/EquipmentFilter'
import { Choice, SelectField, TextField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { useOpenForm } from '../shared/useTabState'
import { BookMap } from './BookMap'
import { ByLook } from './ByLook'
import { FailedSettings } from '../recipes/FailedSettings'
import { RecipeRow } from '../recipes/RecipeRow'
import { WriteDown } from './WriteDown'

/** What the shop knows: a map of one process, or a list found by words. What is chosen stands in the address. */
export function BookPage() {
  const { inventory, me } = useShop()
  const filter = useFilter()
  const [writing, setWriting] = useOpenForm('write-down')
  const used = new Set<ProcessKey>(inventory.materials.flatMap((one) => one.processes))
  const process = inventory.processes.find((one) => one.key === filter.process)?.key ?? null
  const narrowed = filter.text !== '' || filter.head !== null || filter.material !== null
  const look = filter.view === 'look'
  const list = look || narrowed || filter.standing !== null || filter.view === 'list'
  const shown = process ?? (list ? null : (inventory.processes.find((one) => used.has(one.key))?.key ?? null))
  return (
    <Box>
      <Flex gap="4" wrap="wrap" align="center" mb="3">
        <PageTitle>What the shop knows</PageTitle>
        <Choice
          label="Process"
          value={shown ?? ''}
          onPick={(value) => filter.set('process', value)}
          options={[
            ...(list ? [{ value: '', label: 'Everything' }] : []),
            ...inventory.processes
              .filter((one) => used.has(one.key))
              .map((one) => ({ value: one.key, label: one.name })),
          ]}
        />
      </Flex>
      <Flex gap="3" wrap="wrap" mb="4" align="center">
        <Box flex="1" minW="220px" maxW="420px" hidden={look}>
          <TextField
            label="Find"
            hideLabel
            placeholder="material, machine, purpose, note, name"
            value={filter.text}
            onChange={(event) => filter.set('text', event.currentTarget.value)}
          />
        </Box>
        <Choice
          label="How to look at it"
          value={look ? 'look' : list ? 'list' : 'map'}
          onPick={(view) =>
            view === 'map'
              ? filter.only({ process: filter.process })
              : filter.only({ process: filter.process, view })
          }
          options={[
            { value: 'map', label: 'Map' },
            { value: 'list', label: 'List' },
            { value: 'look', label: 'By look' },
          ]}
        />
        {list && !look && <ListFilters filter={filter} />}
        {me.may_write && !writing && (
          <Button ml={{ base: '0', md: 'auto' }} onClick={() => setWriting(true)}>
            Write down what you heard
          </Button>
        )}
      </Flex>
      {writing && <WriteDown process={shown ?? 'cut'} onDone={() => setWriting(false)} />}
      {look ? (
        <ByLook filter={filter} process={process} />
      ) : list || !shown ? (
        <RecipeList filter={filter} process={process} />
      ) : (
        <BookMap process={shown} />
      )}
      <KeysHelp hints={[]} />
    </Box>
  )
}

function ListFilters({ filter }: { filter: Filter }) {
  const { standings } = useShop().inventory
  return (
    <>
      <EquipmentFilter filter={filter} />
      <SelectField
        label="Standing"
        hideLabel
        value={filter.standing ?? ''}
        onPick={(value) => filter.set('standing', value)}
        options={[
          { value: '', label: 'every standing' },
          ...standings.map((key) => ({ value: key, label: key })),
        ]}
      />
    </>
  )
}

function RecipeList({ filter, process }: { filter: Filter; process: ProcessKey | null }) {
  const { text, head, material } = filter
  const { standings } = useShop().inventory
  const standing = standings.find((key) => key === filter.standing) ?? null
  const book = useBook({ text, head, material, process, standing })
  const failed = useFailed({ head, material, process })
  const filtered = text !== '' || [head, material, process, standing].some((one) => one !== null)
  if (book.isError) return <Failure error={book.error} retry={() => void book.refetch()} />
  if (!book.data) return <Waiting what="the book" height="200px" />
  const recipes = book.data.pages.flatMap((page) => page.recipes)
  const total = book.data.pages[0]?.total ?? 0
  return (
    <Box maxW="1080px">
      {total === 0 && (
        <Nothing>
          {filtered
            ? 'Nothing in the book matches. Take a word away, or ask for it and plan an array.'
            : 'The book is empty. Burn a plate, read it, and keep its best patch.'}
        </Nothing>
      )}
      <Flex direction="column" gap="2" role="list" aria-label="Recipes">
        {recipes.map((recipe) => (
          <RecipeRow key={recipe.id} recipe={recipe} />
        ))}
      </Flex>
      {total > 0 && (
        <Flex gap="4" align="center" mt="3">
          <Text color="ink2" fontSize="14.5px" role="status">
            {recipes.length < total ? `${recipes.length} of ${total}` : total}{' '}
            {total === 1 ? 'recipe' : 'recipes'}
          </Text>
          {book.hasNextPage && (
            <Button loading={book.isFetchingNextPage} onClick={() => void book.fetchNextPage()}>
              Show more
            </Button>
          )}
        </Flex>
      )}
      {text === '' && standing === null && failed.data && (
        <Box mt="6">
          <FailedSettings failed={failed.data} />
        </Box>
      )}
    </Box>
  )
}
