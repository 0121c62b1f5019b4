import { Button } from '../shared/Button'
import { Box, Flex, Grid, Table, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { useParams } from 'react-router'
import { put } from '../api/client'
import { useForgetLists, useRecipe } from '../api/hooks'
import type { RecipePageData, Standing } from '../api/types'
import { TextField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, PageTitle, Section, StandingBadge, Waiting } from '../shared/Parts'
import { useParameter, useProcess, useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'
import { shown } from '../shared/units'
import { capital, dayAndTime } from '../shared/words'
import { PlanAround } from '../ask/PlanAround'
import { RecipeCard } from './RecipeCard'

/** A recipe: the card, every setting in my units, its evidence, who and when. */
export function RecipePage() {
  const id = Number(useParams().id)
  const recipe = useRecipe(id)
  if (!Number.isInteger(id)) return <Nothing>There is no such recipe.</Nothing>
  if (recipe.isError) return <Failure error={recipe.error} retry={() => void recipe.refetch()} />
  if (!recipe.data) return <Waiting what="the recipe" height="400px" />
  const page = recipe.data
  return (
    <Box maxW="1080px">
      <PageTitle under={`${page.process_name} on ${page.head}${page.purpose ? ` · ${page.purpose}` : ''}`}>
        {page.material}
      </PageTitle>
      <RecipeCard recipe={page}>
        <PlanAround process={page.process} material={page.material_id} head={page.head_id} />
      </RecipeCard>
      <Grid templateColumns={{ base: '1fr', lg: '1fr 1fr' }} gap="4" mt="4" alignItems="start">
        <Settings page={page} />
        <Flex direction="column" gap="4">
          <EvidenceCard page={page} />
          <StandingCard key={page.edit} page={page} />
          <History page={page} />
        </Flex>
      </Grid>
      <KeysHelp hints={[]} />
    </Box>
  )
}

function Settings({ page }: { page: RecipePageData }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  return (
    <Card p="4">
      <Section title="Settings">
        {page.steps.map((step) => (
          <Box key={step.position}>
            {page.steps.length > 1 && (
              <Text fontWeight="600">
                {step.position}. {step.name}
              </Text>
            )}
            <Table.Root size="sm" variant="line" mb="2">
              <Table.Body>
                {Object.entries(step.settings).map(([key, value]) => {
                  const { value: number, unit, others } = shown(value, parameter(key), inventory.units, units)
                  return (
                    <Table.Row key={key} bg="transparent">
                      <Table.Cell px="0" color="ink2">
                        {capital(parameter(key).name)}
                      </Table.Cell>
                      <Table.Cell px="0" textAlign="right" fontWeight="700" fontSize="16px" title={others}>
                        {number} {unit}
                      </Table.Cell>
                    </Table.Row>
                  )
                })}
              </Table.Body>
            </Table.Root>
          </Box>
        ))}
      </Section>
    </Card>
  )
}

function EvidenceCard({ page }: { page: RecipePageData }) {
  const { inventory } = useShop()
  const process = useProcess(page.process)
  const { evidence } = page
  if (!evidence) return null
  const words = process.outcome === 'through' ? inventory.words.through : inventory.words.darkness
  const outcome = evidence.reading?.[process.outcome]
  const { burn } = evidence
  const lines: [string, string | null | undefined][] = [
    ['Plate', `${evidence.code}, patch ${page.patch}`],
    ['Came out', outcome === null || outcome === undefined ? null : words[outcome]],
    ['Read by', evidence.reading && `${evidence.reading.by_name}, ${dayAndTime(evidence.reading.at)}`],
    ['Burned by', `${burn.by_name}, ${dayAndTime(burn.at)}`],
    ['Lot', [burn.lot, burn.measured_mm && `${burn.measured_mm} mm measured`].filter(Boolean).join(', ')],
    ['Focus', burn.focus],
    ['Air', burn.air],
    ['Note', burn.note],
  ]
  return (
    <Card p="4">
      <Section title="Evidence">
        <Grid templateColumns="90px 1fr" rowGap="1">
          {lines
            .filter(([, value]) => value)
            .map(([name, value]) => (
              <Box key={name} display="contents">
                <Text color="ink2">{name}</Text>
                <Text>{value}</Text>
              </Box>
            ))}
        </Grid>
      </Section>
    </Card>
  )
}

const CHOICES: Standing[] = ['tried', 'proven', 'doubtful', 'retired']

/** What the shop says of it: standing and note, changed from the version one sees. */
function StandingCard({ page }: { page: RecipePageData }) {
  const { me } = useShop()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [note, setNote] = useState(page.note)
  const change = useMutation({
    mutationFn: (part: { standing?: Standing; note?: string }) =>
      put<RecipePageData>(`/api/recipes/${page.id}`, { ...part, edit: page.edit }),
    onSuccess: (fresh) => {
      client.setQueryData(['recipe', page.id], fresh)
      void forgetLists()
    },
    onError: (error) => {
      sayFailed(error)
      void client.invalidateQueries({ queryKey: ['recipe', page.id] })
    },
  })
  const open = CHOICES.filter(
    (standing) =>
      standing !== page.standing &&
      (me.may_prove ||
        (standing === 'doubtful' && page.standing === 'tried') ||
        (standing === 'tried' && page.standing === 'doubtful')),
  )
  return (
    <Card p="4">
      <Section title="What we say of it">
        <Flex gap="2" align="center" wrap="wrap">
          <StandingBadge standing={page.standing} />
          {me.may_write &&
            open.map((standing) => (
              <Button
                key={standing}
                size="sm"
                look="quiet"
                loading={change.isPending}
                onClick={() => change.mutate({ standing })}
              >
                Mark as {standing}
              </Button>
            ))}
        </Flex>
        {!me.may_prove && (
          <Text fontSize="14px" color="ink2" mt="1">
            A technician can mark it proven.
          </Text>
        )}
        {me.may_write && (
          <Flex gap="2" mt="3" align="flex-end">
            <Box flex="1">
              <TextField label="Note" value={note} onChange={(event) => setNote(event.currentTarget.value)} />
            </Box>
            <Button look="quiet" disabled={note === page.note} onClick={() => change.mutate({ note })}>
              Keep the note
            </Button>
          </Flex>
        )}
      </Section>
    </Card>
  )
}

function History({ page }: { page: RecipePageData }) {
  return (
    <Card p="4">
      <Section title="Who and when">
        {page.history.map((version, i) => {
          const before = page.history[i + 1]?.recipe as { standing?: string; note?: string } | undefined
          const now = version.recipe as { standing?: string; note?: string }
          const what = !before
            ? `kept as ${now.standing}`
            : before.standing !== now.standing
              ? `marked ${now.standing}`
              : 'changed the note'
          return (
            <Text key={version.edit}>
              <Text as="span" color="ink2">
                {dayAndTime(version.at)}
              </Text>{' '}
              {version.by_name} {what}
            </Text>
          )
        })}
      </Section>
    </Card>
  )
}
