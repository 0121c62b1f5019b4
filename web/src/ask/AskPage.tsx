import { Box, Flex, Grid, Link, Text } from '@chakra-ui/react'
import type { PropsWithChildren } from 'react'
import { Link as RouterLink } from 'react-router'
import { useAnswer, useMap, useTrials } from '../api/hooks'
import type { Answer, Chance, Lay, Near, ProcessKey, RecipeCardData, TrialCard } from '../api/types'
import { ConfirmTaps } from '../recipes/ConfirmTaps'
import { FailedSettings } from '../recipes/FailedSettings'
import { RecipeCard, StepNumerals } from '../recipes/RecipeCard'
import { RecipeRow } from '../recipes/RecipeRow'
import { MiniPlate } from '../plate/MiniPlate'
import { Button } from '../shared/Button'
import { KeysHelp } from '../shared/KeysHelp'
import { Card, Failure, Nothing, Section, Waiting } from '../shared/Parts'
import { useParameter, useInMyUnits, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { day, trialName, standingWords } from '../shared/words'
import { PlanAround } from '../recipes/PlanAround'
import { FirstWords, useMissingWord } from './FirstWords'
import { addressOf, materialNames, meantFor, sameThickness, sentenceOf, thicknesses } from './sentence'
import type { Sentence } from './sentence'
import { useAddress } from '../shared/useAddress'
import './ask.css'

/** Ask: a sentence one completes; the answer appears while it is being completed. */
export function AskPage() {
  const { inventory } = useShop()
  const [search, setSearch] = useAddress()
  const sentence = sentenceOf(search, inventory)
  const lay = inventory.forms.lays.find(({ key }) => key === search.get('lay'))
  const answer = useAnswer(
    sentence.process,
    sentence.material?.id ?? null,
    sentence.head,
    (lay?.key ?? 'flat') as Lay,
  )
  const word = useMissingWord()
  // The answer is what one came for: what stands beside it is asked for once the first one is here.
  const answered = answer.isFetched || !sentence.material
  if (word[0] !== null || inventory.heads.length === 0 || inventory.materials.length === 0) {
    return <FirstWords word={word} />
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 330px' }} gap="8" pt={{ base: '0', lg: '4' }}>
      <Box minW="0">
        <AskSentence sentence={sentence} onChange={(next) => setSearch(addressOf(next), { replace: true })} />
        {lay && lay.key !== 'flat' && (
          <Text mt="2" fontSize="17px">
            For a piece that lies {lay.name}.{' '}
            <Button
              look="link"
              onClick={() => setSearch(addressOf(sentenceIds(sentence)), { replace: true })}
            >
              For one that lies flat
            </Button>
          </Text>
        )}
        <Box mt="6">
          {answer.isError && <Failure error={answer.error} retry={() => void answer.refetch()} />}
          {answer.isPending && sentence.material && <Waiting what="the answer" height="220px" />}
          {answer.data && <AnswerView answer={answer.data} sentence={sentence} />}
          {!sentence.material && <Nothing>No material in the shop is meant for this.</Nothing>}
        </Box>
      </Box>
      <Flex direction="column" gap="4">
        <OnTheBench now={answered} />
        <NotKnownYet process={sentence.process} now={answered} />
      </Flex>
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
  const offered = inventory.processes.filter((one) => one.offered && used.has(one.key))
  return (
    <Text as="h1" className="sentence">
      I want to{' '}
      <select
        aria-label="Process"
        value={process}
        onChange={(event) => {
          const next = offered[event.currentTarget.selectedIndex]?.key ?? process
          const still = material?.processes.includes(next) ? material : meantFor(inventory.materials, next)[0]
          pick({ process: next, material: still?.id ?? null })
        }}
      >
        {offered.map((one) => (
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
            {name}
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
              {one.facts.thickness_said ?? `${one.thickness_mm} mm`}
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
          {inventory.heads
            .filter((one) => !one.retired)
            .map((one) => (
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

/** What was found on pieces that lay otherwise: it answers nothing here, and says so. */
function LayOtherwise({ found }: { found: RecipeCardData[] }) {
  const [, setSearch] = useAddress()
  const [first] = found
  if (!first) return null
  // By what has come, not by what is asked for meanwhile.
  const flat = first.lay_words === ''
  return (
    <Section
      title={
        flat
          ? 'Found on a flat piece: nothing to go by here'
          : `Found ${first.lay_words}: says nothing of a flat piece`
      }
    >
      <Flex direction="column" gap="2" role="list">
        {found.map((recipe) => (
          <RecipeRow key={recipe.id} recipe={recipe} />
        ))}
      </Flex>
      {!flat && (
        <Button
          look="link"
          onClick={() =>
            setSearch(
              (before) => {
                before.set('lay', first.lay)
                return before
              },
              { replace: true },
            )
          }
        >
          Ask for a piece that lies so
        </Button>
      )}
    </Section>
  )
}

const sentenceIds = ({ process, material, head }: Sentence) => ({
  process,
  material: material?.id ?? null,
  head,
})

function AnswerView({ answer, sentence }: { answer: Answer; sentence: Sentence }) {
  const { process, material, head } = sentence
  if (!material || head === null) return null
  const around = { process, material: material.id, head }
  return (
    <Flex direction="column" gap="5">
      {answer.recipes.map((recipe, i) => (
        <AnswerCard key={recipe.id} recipe={recipe} chance={answer.chances[recipe.id]}>
          {i === 0 && <PlanAround {...around} />}
        </AnswerCard>
      ))}
      {answer.recipes.length === 0 && <NotKnown answer={answer} sentence={sentence} />}
      {answer.unproven.map((recipe) => (
        <AnswerCard key={recipe.id} recipe={recipe} chance={answer.chances[recipe.id]} />
      ))}
      <LayOtherwise found={answer.lay_otherwise} />
      <FailedSettings failed={answer.failed} />
      {answer.near.length > 0 && <Nearest near={answer.near} />}
      {answer.plates.length > 0 && <Plates plates={answer.plates} name={material.name} />}
      {answer.related.length > 0 && (
        <Section title={`What else is known of ${material.name}`}>
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

/** A recipe of the answer: confirmed where it stands, and the way to its page; `children`: what else one does with it. */
function AnswerCard({
  recipe,
  chance,
  children,
}: PropsWithChildren<{ recipe: RecipeCardData; chance: Chance | undefined }>) {
  return (
    <RecipeCard recipe={recipe} chance={chance}>
      <ConfirmTaps recipe={recipe} />
      {children}
      <Link asChild color="emberOnSoft" fontWeight="600" alignSelf="center" px="2">
        <RouterLink to={`/book/${recipe.id}`}>Everything about it</RouterLink>
      </Link>
    </RecipeCard>
  )
}

/** No recipe: say so, say where one would begin, and offer the array. */
function NotKnown({ answer, sentence }: { answer: Answer; sentence: Sentence }) {
  const { inventory, units } = useShop()
  const inMyUnits = useInMyUnits()
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
  if (answer.never.length > 0 || answer.does_not_work !== null) {
    return (
      <Card p="6" bg="emberSoft" borderColor="ember">
        <Text fontSize="23px" fontWeight="600">
          {answer.never.length > 0 ? '▲ Never burn this.' : `This does not work on ${machine?.title}.`}
        </Text>
        {[...answer.never, answer.does_not_work].map((reason) => (
          <Text key={reason} fontSize="17px" mt="1">
            {reason}
          </Text>
        ))}
      </Card>
    )
  }
  return (
    <Card p="6" bg="steelSoft" borderColor="steel">
      <Text fontSize="23px" fontWeight="600">
        Not known yet on {machine?.title}.
      </Text>
      <Text fontSize="17px" mt="1">
        {inMyUnits(answer.start.reason)}{' '}
        {answer.start.trial !== null && (
          <Link asChild color="steel" fontWeight="600" textDecoration="underline">
            <RouterLink
              to={`/trials/${answer.start.trial}/decide?burn=${answer.start.burn}&patch=${answer.start.patch}`}
            >
              Decide it
            </RouterLink>
          </Link>
        )}
      </Text>
      <Text fontSize="17px" mt="1">
        An array would begin with <strong>{range('speed_mm_s')}</strong> and{' '}
        <strong>{range('power_pct')}</strong>.
      </Text>
      <Box mt="4">
        <PlanAround
          process={process}
          material={material.id}
          head={head}
          first
          ladder={answer.start.ladder_first}
          onABoard={answer.start.on_a_board}
        />
      </Box>
    </Card>
  )
}

/** What the starting point was reckoned from, by how much each counts; settings are their own, not what holds here. */
function Nearest({ near }: { near: Near[] }) {
  const inMyUnits = useInMyUnits()
  return (
    <Section title="What comes nearest">
      <Flex direction="column" gap="2" role="list">
        {near.map(({ recipe, reasons, weight }) => (
          <Card key={recipe.id} p="3" role="listitem">
            <Flex gap="4" align="center" wrap="wrap">
              <Box width="72px" height="52px" flexShrink="0">
                {recipe.evidence && (
                  <MiniPlate picture={recipe.evidence.picture} chosen={recipe.patch} label="" />
                )}
              </Box>
              <Box flex="1" minW="210px">
                <Link asChild fontWeight="600" fontSize="17px" textDecoration="underline">
                  <RouterLink to={`/book/${recipe.id}`}>
                    {recipe.material} on {recipe.head}
                  </RouterLink>
                </Link>
                <Text color="ink2" fontSize="15px">
                  {reasons.map(inMyUnits).join(' · ')}
                </Text>
                {weight === 0 && <Text color="ink2">doubtful, does not count</Text>}
                {weight > 0 && near.length > 1 && (
                  <Text color="ink2" fontSize="15px">
                    counts {Math.round(100 * weight)} in 100
                  </Text>
                )}
              </Box>
              <Box>
                <StepNumerals settings={recipe.steps[0]?.settings ?? {}} size="s" unproven />
                <Text fontSize="14px" color="ink2">
                  {recipe.standing} there{recipe.purpose && `, ${recipe.purpose}`}
                </Text>
              </Box>
            </Flex>
          </Card>
        ))}
      </Flex>
    </Section>
  )
}

/** The burned plates of this material as pictures. */
function Plates({ plates, name }: { plates: TrialCard[]; name: string }) {
  return (
    <Section title={`Plates of ${name}`}>
      <Grid templateColumns="repeat(auto-fill, minmax(130px, 1fr))" gap="3" role="list">
        {plates.map((trial) => (
          <Box key={trial.id} role="listitem">
            <RouterLink to={`/trials/${trial.id}`}>
              <Box height="92px" mb="1">
                {trial.picture && <MiniPlate picture={trial.picture} label="" />}
              </Box>
              <Text fontWeight="600">{trialName(trial.number)}</Text>
              <Text color="ink2" fontSize="14px">
                {trial.head} · {trial.process_name.toLowerCase()} · {day(trial.burned_at ?? trial.at)}
              </Text>
            </RouterLink>
          </Box>
        ))}
      </Grid>
    </Section>
  )
}

/** Meant for it, and nobody knows how: the first few gaps of the map. */
function NotKnownYet({ process, now }: { process: ProcessKey; now: boolean }) {
  const map = useMap(process, now)
  if (!map.data || map.data.gaps === 0) return null
  const { heads } = map.data
  const gaps = map.data.rows.flatMap((row) =>
    row.cells
      .filter((cell) => cell.state === 'gap')
      .map((cell) => ({ row, head: heads.find((head) => head.id === cell.head_id) })),
  )
  return (
    <Card p="4">
      <Section title={`Not known yet: ${gaps.length} of ${gaps.length + map.data.known}`}>
        {gaps.slice(0, 5).map(({ row, head }) => (
          <Link key={`${row.material_id} ${head?.id}`} asChild display="block" py="0.5">
            <RouterLink to={`/?process=${process}&material=${row.material_id}&head=${head?.id}`}>
              {row.title} on {head?.title}
            </RouterLink>
          </Link>
        ))}
        <Link asChild color="emberOnSoft" fontWeight="600" display="inline-block" pt="2">
          <RouterLink to={`/book?process=${process}`}>See the map</RouterLink>
        </Link>
      </Section>
    </Card>
  )
}

/** Plates that wait to be burned, read or decided. */
function OnTheBench({ now }: { now: boolean }) {
  const trials = useTrials({ bench: true, most: 8 }, now)
  return (
    <Card p="4">
      <Section title="On the bench">
        {trials.isError && <Text>{trials.error.message}</Text>}
        {trials.data?.length === 0 && <Text color="ink2">Nothing waits.</Text>}
        {trials.data?.map((trial) => (
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
