import { Flex, Link, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../api/client'
import { useForget } from '../api/stale'
import type { TrialPageData } from '../api/types'
import { Button } from '../shared/Button'
import { Card, Section } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { written } from '../shared/units'
import { kerfWords } from '../shared/words'

/** Slots and a tab: how one finds the width of the cut, and what came of it. */
export function KerfCard({ page }: { page: TrialPageData }) {
  const { me } = useShop()
  if ((page.burned ?? page.plate)?.trial.patch.shape !== 'slots') return null
  const found = page.readings.map(({ values }) => Number(values.kerf_mm ?? 0)).find((kerf) => kerf > 0)
  const { kerf_of: of } = page
  return (
    <Card p="3" as="section" aria-label="How wide the cut is">
      <Section title="How wide the cut is">
        {found === undefined ? (
          <Text fontSize="15px">
            Try the loose tab in the slots, from the corner that is cut off. Which one does it fit, without
            force and without play? Slots are counted from that corner.
          </Text>
        ) : (
          <>
            <Text fontSize="17px" fontWeight="600" role="status">
              Kerf {written(found)} mm
            </Text>
            <Text fontSize="15px">{kerfWords(found)}</Text>
          </>
        )}
        {of && (
          <Flex gap="3" mt="2" align="center" wrap="wrap">
            <Link asChild color="emberOnSoft" textDecoration="underline">
              <RouterLink to={`/book/${of.recipe_id}`}>The recipe</RouterLink>
            </Link>
            {found !== undefined && me.may_write && of.kerf_mm !== found && (
              <KeepKerf trial={page.id} recipe={of.recipe_id} edit={of.edit} kerf={found} />
            )}
            {found !== undefined && of.kerf_mm === found && <Text color="moss">The book says so.</Text>}
          </Flex>
        )}
      </Section>
    </Card>
  )
}

function KeepKerf({
  trial,
  recipe,
  edit,
  kerf,
}: {
  trial: number
  recipe: number
  edit: number
  kerf: number
}) {
  const forget = useForget()
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.PUT('/api/recipes/{id}', { params: { path: { id: recipe } }, body: { edit, kerf_mm: kerf } }),
      ),
    onSuccess: async () => {
      sayDone('The recipe says its kerf.')
      await Promise.all([forget('trial', trial), forget('recipe', recipe)])
    },
    onError: sayFailed,
  })
  return (
    <Button look="ember" ml="auto" loading={keep.isPending} onClick={() => keep.mutate()}>
      Keep it with the recipe
    </Button>
  )
}
