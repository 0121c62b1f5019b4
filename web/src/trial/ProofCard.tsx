import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import type { Proof, TrialPageData } from '../api/types'
import { useMorePasses, useSayInBook } from '../recipes/useProofs'
import { Button } from '../shared/Button'
import { Card, Section } from '../shared/Parts'
import { useInMyUnits, useParametersOn, useShop } from '../shared/ShopContext'
import { otherSettings, trialName } from '../shared/words'
import { shownStep } from './shownBurn'

/** A trial that proves something on a real shape: what it proves, how it came out, and what follows. */
export function ProofCard({ page }: { page: TrialPageData }) {
  const { proof } = page
  if (!proof) return null
  const { of, recipe_id: recipe } = proof
  return (
    <Card p="3" as="section" aria-label="Proof on a real shape">
      <Section title="Proof on a real shape">
        <Text fontSize="15px">
          {page.reason}{' '}
          {of && (
            <Link asChild color="emberOnSoft" textDecoration="underline">
              <RouterLink to={`/trials/${of.trial_id}/decide?burn=${of.burn_id}`}>
                Back to {trialName(of.number)}
              </RouterLink>
            </Link>
          )}
          {recipe !== null && (
            <Link asChild color="emberOnSoft" textDecoration="underline">
              <RouterLink to={`/book/${recipe}`}>The recipe</RouterLink>
            </Link>
          )}
        </Text>
        {proof.results.length === 0 && proof.fineness && (
          <Text fontSize="14.5px" color="ink2" mt="1">
            {proof.fineness} What holds on a lonely coupon may burn where work lies close.
          </Text>
        )}
        {proof.results.map((result) => (
          <Result key={result.patch} page={page} proof={proof} result={result} />
        ))}
      </Section>
    </Card>
  )
}

interface ResultProps {
  page: TrialPageData
  proof: Proof
  result: Proof['results'][number]
}

function Result({ page, proof, result }: ResultProps) {
  const { me } = useShop()
  const more = proof.more[result.patch]
  const alone = page.burned?.patches.length === 1
  return (
    <Box mt="2">
      <Text fontWeight="600" color={result.result === 'held' ? 'moss' : 'emberOnSoft'} role="status">
        {alone ? '' : `${result.patch}: `}
        {result.words}
      </Text>
      {more && me.may_write && <MorePasses page={page} patch={result.patch} more={more} />}
      {proof.recipe_id !== null && me.may_write && (
        <SayInBook trial={page} recipe={proof.recipe_id} result={result} />
      )}
    </Box>
  )
}

interface MorePassesProps {
  page: TrialPageData
  patch: string
  more: Record<string, number>[]
}

/** The answer to a shape that burned: the same dose in more and faster passes. */
function MorePasses({ page, patch, more }: MorePassesProps) {
  const inMyUnits = useInMyUnits()
  const plan = useMorePasses(page.burn?.id ?? 0, shownStep(page), patch)
  if (more.length === 0) {
    return (
      <Text fontSize="14.5px" color="ink2">
        The machine goes no faster: keep it for simple shapes only, or try less power.
      </Text>
    )
  }
  const said = more.map((one) => inMyUnits(`${one.passes} passes at ${one.speed_mm_s} mm/s`))
  return (
    <Box mt="1">
      <Text fontSize="15px">The same dose in more and faster passes heats less: {said.join(', ')}.</Text>
      <Flex mt="2" gap="3" align="center" wrap="wrap">
        <Text fontSize="14px" color="ink2" flex="1" minW="140px">
          Else it is good for simple shapes only.
        </Text>
        <Button look="ember" loading={plan.isPending} onClick={() => plan.mutate()}>
          Plan that small array
        </Button>
      </Flex>
    </Box>
  )
}

function SayInBook({
  trial,
  recipe,
  result,
}: {
  trial: TrialPageData
  recipe: number
  result: ResultProps['result']
}) {
  const say = useSayInBook(trial.id, recipe)
  const held = result.result === 'held'
  return (
    <Button
      look="link"
      size="sm"
      mt="2"
      loading={say.isPending}
      onClick={() =>
        say.mutate({
          held,
          reason: held ? null : result.reason,
          note: `Proof ${trialName(trial.number)}. ${result.words}`,
        })
      }
    >
      {held ? 'Say in the book that it held' : 'Say in the book that it did not hold'}
    </Button>
  )
}

// What tells one proof of a plate from another.
const TOLD_APART_BY = new Set(['speed_mm_s', 'power_pct', 'passes'])
const NONE: ReadonlySet<string> = new Set()

/** What was proven of a burn: each trial with how its shapes came out. */
export function ProofsOfBurn({ page }: { page: TrialPageData }) {
  const { inventory, units } = useShop()
  const leading = useParametersOn().filter(({ key }) => TOLD_APART_BY.has(key))
  if (page.proofs.length === 0) return null
  return (
    <Card p="3">
      <Section title="On a real shape">
        {page.proofs.map((one) => (
          <Flex key={one.trial_id} gap="2" py="0.5">
            <Link asChild color="emberOnSoft" textDecoration="underline" whiteSpace="nowrap">
              <RouterLink to={`/trials/${one.trial_id}`}>{trialName(one.number)}</RouterLink>
            </Link>
            <Box>
              {one.results.length === 0 && <Text>not read yet</Text>}
              {one.results.map(({ words, settings }, i) => (
                <Text key={i}>
                  {otherSettings(settings, leading, inventory.units, units, NONE)}: {words}
                </Text>
              ))}
            </Box>
          </Flex>
        ))}
      </Section>
    </Card>
  )
}
