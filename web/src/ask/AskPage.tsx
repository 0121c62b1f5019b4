import { Box, Flex, Grid, Link, Text } from '@chakra-ui/react'
import { Link as RouterLink, useSearchParams } from 'react-router'
import { useAnswer, useTrials } from '../api/hooks'
import type { Answer, ProcessKey } from '../api/types'
import { RecipeCard } from '../book/RecipeCard'
import { RecipeRow } from '../book/RecipeRow'
import { MiniPlate } from '../plate/MiniPlate'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, Section, Waiting } from '../shared/Parts'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { trialName } from '../shared/words'
import { standingWords } from '../trial/TrialsPage'
import { PlanAround } from './PlanAround'
import { addressOf, materialNames, meantFor, sameThickness, sentenceOf, thicknesses } from './sentence'
import type { Sentence } from './sentence'
import './ask.css'

/** Ask: a sentence one completes; the answer appears while it is being completed. */
export function AskPage() {
  const { inventory } = useShop()
  const [search, setSearch] = useSearchParams()
  const sentence = sentenceOf(search, inventory)
  const answer = useAnswer(sentence.process, sentence.material?.id ?? null, sentence.head)
  if (inventory.heads.length === 0 || inventory.materials.length === 0) {
    return (
      <Nothing>
        This shop has no machines or materials yet. Add them with <code>rezept add machine</code> and{' '}
        <code>rezept add material</code>, then ask.
      </Nothing>
    )
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 330px' }} gap="8" pt={{ base: '0', lg: '4' }}>
      <Box minW="0">
        <AskSentence sentence={sentence} onChange={(next) => setSearch(addressOf(next), { replace: true })} />
        <Box mt="6">
          {answer.isError && <Failure error={answer.error} retry={() => void answer.refetch()} />}
          {answer.isPending && sentence.material && <Waiting what="the answer" height="220px" />}
          {answer.data && <AnswerView answer={answer.data} sentence={sentence} />}
          {!sentence.material && <Nothing>No material in the shop is meant for this.</Nothing>}
        </Box>
      </Box>
      <OnTheBench />
      <KeysHelp hints={[{ keys: ['Tab'], does: 'from word to word of the sentence' }]} />
    </Grid>
  )
}

interface AskSentenceProps {
  sentence: Sentence
  onChange: (next: { process: ProcessKey; material: number | null; head: number | null }) => void
}

function AskSentence({ sentence, onChange }: AskSentenceProps) {
  const { inventory } = useShop()
  const { process, material, head } = sentence
  const fitting = meantFor(inventory.materials, process)
  const used = new Set(inventory.materials.flatMap((one) => one.processes))
  const pick = (change: Partial<{ process: ProcessKey; material: number | null; head: number | null }>) =>
    onChange({ process, material: material?.id ?? null, head, ...change })
  return (
    <Text as="h1" className="sentence">
      I want to{' '}
      <select
        aria-label="Process"
        value={process}
        onChange={(event) => {
          const next = event.currentTarget.value as ProcessKey
          const still = material?.processes.includes(next) ? material : meantFor(inventory.materials, next)[0]
          pick({ process: next, material: still?.id ?? null })
        }}
      >
        {inventory.processes
          .filter((one) => used.has(one.key))
          .map((one) => (
            <option key={one.key} value={one.key}>
              {one.verb}
            </option>
          ))}
      </select>{' '}
      <select
        aria-label="Material"
        value={material?.name ?? ''}
        onChange={(event) => {
          const sheet = sameThickness(fitting, event.currentTarget.value, material?.thickness_mm ?? null)
          pick({ material: sheet?.id ?? null })
        }}
      >
        {materialNames(fitting).map((name) => (
          <option key={name} value={name}>
            {name.charAt(0).toLowerCase() + name.slice(1)}
          </option>
        ))}
      </select>{' '}
      {material && material.thickness_mm !== null && (
        <select
          aria-label="Thickness"
          value={material.id}
          onChange={(event) => pick({ material: Number(event.currentTarget.value) })}
        >
          {thicknesses(fitting, material.name).map((one) => (
            <option key={one.id} value={one.id}>
              {one.thickness_mm} mm
            </option>
          ))}
        </select>
      )}{' '}
      <span style={{ whiteSpace: 'nowrap' }}>
        with{' '}
        <select
          aria-label="Machine"
          value={head ?? ''}
          onChange={(event) => pick({ head: Number(event.currentTarget.value) })}
        >
          {inventory.heads.map((one) => (
            <option key={one.id} value={one.id}>
              {one.title}
            </option>
          ))}
        </select>
        .
      </span>
    </Text>
  )
}

function AnswerView({ answer, sentence }: { answer: Answer; sentence: Sentence }) {
  const { process, material, head } = sentence
  if (!material || head === null) return null
  const around = { process, material: material.id, head }
  return (
    <Flex direction="column" gap="5">
      {answer.recipes.map((recipe, i) => (
        <RecipeCard key={recipe.id} recipe={recipe}>
          {i === 0 && <PlanAround {...around} />}
          <Link asChild color="emberOnSoft" fontWeight="600" alignSelf="center" px="2">
            <RouterLink to={`/book/${recipe.id}`}>Everything about it</RouterLink>
          </Link>
        </RecipeCard>
      ))}
      {answer.recipes.length === 0 && <NotKnown answer={answer} sentence={sentence} />}
      {answer.related.length > 0 && (
        <Section title={`What else is known of ${material.name.toLowerCase()}`}>
          <Flex direction="column" gap="2" role="list">
            {answer.related.map((recipe) => (
              <RecipeRow key={recipe.id} recipe={recipe} />
            ))}
          </Flex>
        </Section>
      )}
    </Flex>
  )
}

/** No recipe: say so, say where one would begin, and offer the array. */
function NotKnown({ answer, sentence }: { answer: Answer; sentence: Sentence }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const { process, material, head } = sentence
  if (!material || head === null) return null
  const range = (key: 'speed_mm_s' | 'power_pct') => {
    const [low = 0, high = 0] = answer.start[key]
    const row = parameter(key)
    const from = shown(low, row, inventory.units, units)
    const to = shown(high, row, inventory.units, units)
    return `${from.value} to ${to.value} ${to.unit}`
  }
  const machine = inventory.heads.find((one) => one.id === head)
  return (
    <Card p="6" bg="steelSoft" borderColor="steel">
      <Text fontSize="23px" fontWeight="600">
        Not known yet on {machine?.title}.
      </Text>
      <Text fontSize="17px" mt="1">
        {answer.start.reason}
      </Text>
      <Text fontSize="17px" mt="1">
        An array would begin with <strong>{range('speed_mm_s')}</strong> and{' '}
        <strong>{range('power_pct')}</strong>.
      </Text>
      <Box mt="4">
        <PlanAround process={process} material={material.id} head={head} first />
      </Box>
    </Card>
  )
}

/** Plates that wait to be burned, read or decided. */
function OnTheBench() {
  const trials = useTrials({ bench: true })
  return (
    <Card p="4" alignSelf="start">
      <Section title="On the bench">
        {trials.isError && <Text>{trials.error.message}</Text>}
        {trials.data?.length === 0 && <Text color="ink2">Nothing waits.</Text>}
        {trials.data?.slice(0, 8).map((trial) => (
          <RouterLink key={trial.id} to={`/trials/${trial.id}`}>
            <Flex gap="3" align="center" py="2.5" borderTopWidth="1px" borderColor="line">
              <Box width="50px" height="50px" flexShrink="0">
                {trial.picture && <MiniPlate picture={trial.picture} label="" />}
              </Box>
              <Box minW="0">
                <Text fontSize="15px">
                  <strong>{trialName(trial.number)}</strong> {trial.material} ·{' '}
                  {trial.process_name.toLowerCase()} · {trial.head}
                </Text>
                <Text color="emberOnSoft" fontWeight="600" fontSize="15px">
                  {standingWords(trial)}
                </Text>
              </Box>
            </Flex>
          </RouterLink>
        ))}
        <Link asChild color="emberOnSoft" fontWeight="600" display="inline-block" pt="2">
          <RouterLink to="/trials">All trials</RouterLink>
        </Link>
      </Section>
    </Card>
  )
}
