import { Box, Flex, Text } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import type { RecipePageData } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { SelectField } from '../shared/Fields'
import { Card, Section, StandingBadge } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { clockUnit, counted, day, dayAndTime, minutes, patchesOf } from '../shared/words'
import { confirmedWords } from '../recipes/ConfirmTaps'
import { useChangeRecipe } from './useChangeRecipe'
import type { RecipeChange } from './useChangeRecipe'

/** How sure the shop is of it: standing, taps, what has taken its place, and the rules. */
export function StandingCard({ page }: { page: RecipePageData }) {
  const { me, inventory } = useShop()
  const reasonName = (key: string) => inventory.failed_because.find((one) => one.key === key)?.name ?? key
  const client = useQueryClient()
  const change = useChangeRecipe(page)
  const send = (part: RecipeChange, back: RecipeChange, said: string) =>
    change.mutate(part, {
      onSuccess: (fresh) =>
        sayDone(said, () => change.mutate({ ...back, edit: fresh.edit }, { onError: sayFailed })),
      onError: (error) => {
        sayFailed(error)
        void client.invalidateQueries({ queryKey: ['recipe', page.id] })
      },
    })
  const same = page.siblings.filter((one) => one.process === page.process)
  return (
    <Card p="4">
      <Section title="How sure we are">
        <Flex gap="2" align="center" wrap="wrap">
          <StandingBadge standing={page.standing} />
          {page.offered.map((standing) => (
            <Button
              key={standing}
              size="sm"
              look={standing === 'proven' && page.worth_proving ? 'ember' : 'quiet'}
              loading={change.isPending && change.variables.standing === standing}
              onClick={() => send({ standing }, { standing: page.standing }, `Marked as ${standing}.`)}
            >
              Mark as {standing}
            </Button>
          ))}
        </Flex>
        {page.worth_proving && (
          <Text color="moss" fontWeight="600" mt="1">
            It has held again and again: worth proving.
          </Text>
        )}
        <AskSomebody least="technician" to="mark it proven" />
        <Text mt="2">{confirmedWords(page) || 'Nobody has said yet whether it holds.'}</Text>
        {page.confirmations
          .slice(-6)
          .reverse()
          .map((one) => (
            <Text key={one.id} fontSize="15px">
              <Text as="span" color="ink2">
                {dayAndTime(one.at)}
              </Text>{' '}
              {one.by_name}: {one.held ? 'it held' : 'it did not hold'}
              {one.reason && `: ${reasonName(one.reason)}`}
              {one.note && `, ${one.note}`}
            </Text>
          ))}
        {me.may_write && (same.length > 0 || page.superseded_by !== null) && (
          <Box mt="3" maxW="320px">
            <SelectField
              label="Superseded by"
              value={String(page.superseded_by ?? '')}
              options={[
                { value: '', label: 'nothing' },
                ...same.map((one) => ({
                  value: String(one.id),
                  label: `${one.purpose || 'no purpose said'}, ${one.standing}, ${one.author}`,
                })),
                ...(page.superseded_by !== null && !same.some((one) => one.id === page.superseded_by)
                  ? [{ value: String(page.superseded_by), label: `recipe ${page.superseded_by}` }]
                  : []),
              ]}
              onPick={(id) =>
                send(
                  { superseded_by: id ? Number(id) : null },
                  { superseded_by: page.superseded_by },
                  id ? 'Another recipe has taken its place.' : 'It stands for itself again.',
                )
              }
            />
          </Box>
        )}
        <Spent spent={page.spent} />
        <Box as="details" mt="3">
          <Text as="summary" color="ink2" cursor="pointer" fontSize="14.5px">
            The rules
          </Text>
          <Box as="ul" pl="5" listStyleType="disc" fontSize="14.5px" color="ink2">
            {page.rules.map((rule) => (
              <li key={rule}>{rule}</li>
            ))}
          </Box>
        </Box>
      </Section>
    </Card>
  )
}

/** What it took to get there: the fewer the better. */
function Spent({ spent }: { spent: RecipePageData['spent'] }) {
  if (!spent) return null
  const { plates, patches, area_mm2, seconds, proven } = spent
  return (
    <Text mt="3">
      {proven ? 'It took' : 'So far it took'} <strong>{patchesOf(patches)}</strong> on{' '}
      {counted(plates, 'plate')}, {Math.round(area_mm2 / 100)} cm² of sheet and {minutes(seconds)}{' '}
      {clockUnit(seconds)} of burning{proven ? ` until it was proven, ${day(proven)}` : ''}.
    </Text>
  )
}
