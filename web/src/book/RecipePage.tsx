import { outcomeOf } from '../shared/outcome'
import { Box, Flex, Grid, Link, Table, Text } from '@chakra-ui/react'
import { Fragment } from 'react'
import { Link as RouterLink, useParams } from 'react-router'
import { PlanAround } from '../recipes/PlanAround'
import { StandOffCard } from '../recipes/StandOffCard'
import { StepWay } from '../recipes/StepWay'
import { useRecipe } from '../api/hooks'
import type { RecipePageData } from '../api/types'
import { Button } from '../shared/Button'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, PageTitle, Section, StandingBadge, Waiting } from '../shared/Parts'
import { useOutcomeWords, useParameter, useProcess, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { capital, dayAndTime, kerfWords } from '../shared/words'
import { ChanceText } from '../recipes/ChanceText'
import { PIN_OF } from '../recipes/aims'
import { useFindKerf, useProveRecipe } from '../recipes/useProofs'
import { ConfirmTaps } from '../recipes/ConfirmTaps'
import { HistoryCard } from './HistoryCard'
import { RecipeCard, StepNumerals, useTriedHere } from '../recipes/RecipeCard'
import { StandingCard } from './StandingCard'
import { WordsCard } from './WordsCard'

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
        <ConfirmTaps recipe={page} />
        <PlanAround process={page.process} material={page.material_id} head={page.head_id} />
        {page.steps.length === 1 && <ProveRecipe page={page} />}
        <Button asChild size="lg" px="4">
          <RouterLink to={`/print/recipe/${page.id}`}>Print</RouterLink>
        </Button>
      </RecipeCard>
      <Grid templateColumns={{ base: '1fr', lg: '1fr 1fr' }} gap="4" mt="4" alignItems="start">
        <Flex direction="column" gap="4">
          <Settings page={page} />
          <Kerf page={page} />
          <StandOffCard stands={page.stand_off} />
          <WordsCard page={page} />
          <Siblings page={page} />
        </Flex>
        <Flex direction="column" gap="4">
          <StandingCard page={page} />
          <ChanceCard page={page} />
          <EvidenceCard page={page} />
          <HistoryCard page={page} />
        </Flex>
      </Grid>
      <KeysHelp hints={[]} />
    </Box>
  )
}

/** One press to a plate of one real, intricate shape with these settings. */
function ProveRecipe({ page }: { page: RecipePageData }) {
  const { me } = useShop()
  const prove = useProveRecipe(page.id)
  if (!me.may_write || page.rounds !== 1) return null
  return (
    <Button size="lg" px="4" loading={prove.isPending} onClick={() => prove.mutate()}>
      Prove it on a real shape
    </Button>
  )
}

/** How wide the cut is, or one press to find it. */
function Kerf({ page }: { page: RecipePageData }) {
  const { me } = useShop()
  const find = useFindKerf(page.id)
  if (!useProcess(page.process).passes_through || page.steps.length !== 1) return null
  if (page.kerf_mm === null && !me.may_write) return null
  return (
    <Card p="4">
      <Flex gap="3" align="center" wrap="wrap">
        <Text flex="1" minW="200px">
          {page.kerf_mm === null ? 'How wide the cut is, nobody has said.' : kerfWords(page.kerf_mm)}
        </Text>
        {me.may_write && (
          <Button size="sm" loading={find.isPending} onClick={() => find.mutate()}>
            {page.kerf_mm === null ? 'Find its kerf' : 'Find it again'}
          </Button>
        )}
      </Flex>
    </Card>
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
            <StepWay recipe={page} step={step} />
          </Box>
        ))}
      </Section>
    </Card>
  )
}

/** On how many fresh sheets it is expected to hold, and what that rests on. */
function ChanceCard({ page }: { page: RecipePageData }) {
  const { chance, finding } = page
  if (!chance && !finding) return null
  return (
    <Card p="4">
      <Section title="On a fresh sheet">
        {chance && <ChanceText chance={chance} />}
        {finding && (
          <Text color="ink2" fontSize="14.5px" mt="1">
            Chosen by {finding.by_name} as the {PIN_OF[finding.aim]}, from{' '}
            {finding.plates.map((plate, i) => (
              <Fragment key={plate.burn}>
                {i > 0 && ', '}
                <Link asChild textDecoration="underline">
                  <RouterLink to={`/trials/${plate.trial}/decide?burn=${plate.burn}`}>
                    {plate.name}
                  </RouterLink>
                </Link>
              </Fragment>
            ))}
            . No patch of them had just these settings.
          </Text>
        )}
      </Section>
    </Card>
  )
}

function EvidenceCard({ page }: { page: RecipePageData }) {
  const process = useProcess(page.process)
  const { of } = useOutcomeWords(process, page.material_id)
  const { evidence } = page
  if (!evidence) return null
  const { words } = of(evidence.reading?.values)
  const outcome = outcomeOf(evidence.reading ?? undefined, process)
  const { burn } = evidence
  const lines: [string, string | null | undefined][] = [
    ['Plate', `${evidence.code}, patch ${page.patch}`],
    ['Came out', outcome === null ? null : words[outcome]],
    ['Read by', evidence.reading && `${evidence.reading.by_name}, ${dayAndTime(evidence.reading.at)}`],
    ['Burned by', `${burn.by_name}, ${dayAndTime(burn.at)}`],
    ['Lot', [burn.lot, burn.measured_mm && `${burn.measured_mm} mm measured`].filter(Boolean).join(', ')],
    ['Focus', burn.focus],
    ['Air', burn.air],
    ['Below it', burn.below],
    ['Tabs', burn.tabs],
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

/** What else the shop does to this material on this machine: mark, engrave and cut on one card. */
function Siblings({ page }: { page: RecipePageData }) {
  const triedHere = useTriedHere()
  if (page.siblings.length === 0) return null
  return (
    <Card p="4">
      <Section title={`Also on ${page.material}, ${page.head}`}>
        {page.siblings.map((one) => (
          <RouterLink key={one.id} to={`/book/${one.id}`}>
            <Flex gap="3" align="center" py="1.5" borderTopWidth="1px" borderColor="line" wrap="wrap">
              <Text flex="1" minW="120px">
                <strong>{one.process_name}</strong>
                {one.purpose && ` · ${one.purpose}`}
              </Text>
              {one.steps[0] && (
                <StepNumerals settings={one.steps[0].settings} size="s" unproven={!triedHere(one)} />
              )}
              <StandingBadge standing={one.standing} />
            </Flex>
          </RouterLink>
        ))}
        <Link asChild fontSize="14.5px" minH="32px" textDecoration="underline">
          <RouterLink to={`/print/recipe/${page.id}?also=1`}>Print all of it on one card</RouterLink>
        </Link>
      </Section>
    </Card>
  )
}
