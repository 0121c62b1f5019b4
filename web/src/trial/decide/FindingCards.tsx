import { Box, Flex, Link, Text } from '@chakra-ui/react'
import type { Candidate, FindingData, TrialPageData } from '../../api/types'
import { StepNumerals } from '../../recipes/RecipeCard'
import { Button } from '../../shared/Button'
import { Card, Section } from '../../shared/Parts'
import { useParametersOn, useProcess, useShop } from '../../shared/ShopContext'
import { otherSettings, trialName } from '../../shared/words'
import { cardsOf, expectedOf, marginOf, titleOf } from '../../recipes/aims'
import { ProveButton } from '../ProveButton'
import { shownStep } from '../shownBurn'
import { secondsWords } from './outcomeMap'
import { useKeepCandidate, usePlanNext } from './useFinding'
import type { Aim, Wish } from '../../api/types'

interface FindingCardsProps {
  page: TrialPageData
  burn: number
  finding: FindingData
  wish: Wish
  chosen: Aim | null
  onChoose: (one: Candidate) => void
}

/** The candidates by aim, what it costs, and where to burn next. */
export function FindingCards({ page, burn, finding, wish, chosen, onChoose }: FindingCardsProps) {
  const keep = useKeepCandidate(page.id, burn, shownStep(page), wish)
  return (
    <Flex direction="column" gap="2.5" data-finding>
      {cardsOf(finding.candidates).map(({ first: one, others }) => (
        <CandidateCard
          key={one.aim}
          page={page}
          one={one}
          others={others}
          finding={finding}
          wish={wish}
          chosen={[one, ...others].some(({ aim }) => aim === chosen)}
          keeping={keep.isPending}
          onChoose={() => onChoose(one)}
          onKeep={() => keep.mutate(one.aim)}
        />
      ))}
      <DepthCard finding={finding} />
      {finding.trade && (
        <Card p="3" bg="steelSoft">
          <Section title="What it costs">
            <Text fontSize="15px">{finding.trade}</Text>
          </Section>
        </Card>
      )}
      {finding.next && <NextCard page={page} burn={burn} finding={finding} wish={wish} />}
      <Missing finding={finding} />
      <Text fontSize="13.5px" color="ink2">
        By {finding.plates.join(', ')}. A fresh sheet is one nobody has burned yet.{' '}
        <Link href={`/api/burns/${burn}/readings-file`} download textDecoration="underline">
          This plate as a file
        </Link>
      </Text>
    </Flex>
  )
}

interface CandidateCardProps {
  page: TrialPageData
  one: Candidate
  /** Other aims for which it is the choice, too. */
  others: Candidate[]
  finding: FindingData
  wish: Wish
  chosen: boolean
  keeping: boolean
  onChoose: () => void
  onKeep: () => void
}

function CandidateCard({
  page,
  one,
  others: alsoFor,
  finding,
  wish,
  chosen,
  keeping,
  onChoose,
  onKeep,
}: CandidateCardProps) {
  const { me, inventory, units } = useShop()
  const parameters = useParametersOn()
  const process = useProcess(page.process)
  const size = `${finding.unit.toLocaleString('en')} ${process.fills ? 'mm²' : 'mm'}`
  const others = otherSettings(one.settings, parameters, inventory.units, units)
  return (
    <Card
      p="3"
      as="section"
      aria-label={titleOf(one)}
      borderWidth={chosen ? '2px' : '1px'}
      borderColor={chosen ? 'ember' : 'line'}
    >
      <button
        type="button"
        onClick={onChoose}
        aria-pressed={chosen}
        style={{ display: 'block', width: '100%', textAlign: 'left' }}
      >
        <Text fontWeight="600">{titleOf(one)}</Text>
        {alsoFor.length > 0 && (
          <Text fontSize="14px" color="ink2">
            also {alsoFor.map((other) => titleOf(other).toLowerCase()).join(', ')}
          </Text>
        )}
        <StepNumerals settings={one.settings} size="s" />
      </button>
      {chosen && (
        <Box mt="1.5" fontSize="15px">
          <Text>{expectedOf(one.predicted)}</Text>
          <Text color="ink2">
            {[marginOf(one), `${secondsWords(one.seconds)} for ${size}.`].filter(Boolean).join(' ')}
          </Text>
          <Text color="ink2" fontSize="14px">
            {others}
          </Text>
          <Text color={one.aim === 'depth' || one.aim === 'colour' ? 'ink' : 'ink2'} fontSize="14px" mt="1">
            {one.why}
          </Text>
          {one.depth.map((sentence) => (
            <Text key={sentence} mt="1">
              {sentence}
            </Text>
          ))}
          {one.shapes.map((shape, i) => (
            <Text key={i} mt="1" fontWeight="600" color={shape.result === 'held' ? 'moss' : 'emberOnSoft'}>
              On a real shape, {trialName(shape.number)}: {shape.words}
            </Text>
          ))}
          {me.may_write && (
            <Flex mt="2.5" gap="2" justify="flex-end" wrap="wrap">
              {page.proof === null && page.steps.length < 2 && page.burn && (
                <ProveButton burn={page.burn.id} step={shownStep(page)} proved={{ aim: one.aim, wish }} />
              )}
              <Button loading={keeping} onClick={onKeep}>
                Keep it
              </Button>
            </Flex>
          )}
        </Box>
      )}
    </Card>
  )
}

/** How deep an engraving gets, pass by pass; of what was chosen its own card says it. */
function DepthCard({ finding }: { finding: FindingData }) {
  const { depth } = finding
  if (!depth || finding.candidates.length > 0) return null
  return (
    <Card p="3" as="section" aria-label="Depth, pass by pass">
      <Section title="Depth, pass by pass">
        {depth.words.map((sentence) => (
          <Text key={sentence} fontSize="15px">
            {sentence}
          </Text>
        ))}
        <Text fontSize="13.5px" color="ink2" mt="1">
          At the settings of {depth.patch}, by {depth.read} depths.
        </Text>
      </Section>
    </Card>
  )
}

type NextCardProps = Pick<FindingCardsProps, 'page' | 'burn' | 'finding' | 'wish'>

function NextCard({ page, burn, finding, wish }: NextCardProps) {
  const { me } = useShop()
  const plan = usePlanNext(burn, shownStep(page), wish)
  const next = finding.next
  if (!next) return null
  return (
    <Card p="3">
      <Section
        title={
          next.axes || next.listed
            ? `Next array, on ${next.on === 'same lot' ? 'this sheet' : 'another sheet'}`
            : 'Next array'
        }
      >
        <Text fontSize="15px">{next.why}</Text>
        {(next.axes ?? next.listed) && me.may_write && (
          <Flex mt="2.5" justify="flex-end">
            <Button look="emberLine" loading={plan.isPending} onClick={() => plan.mutate()}>
              Plan it
            </Button>
          </Flex>
        )}
      </Section>
    </Card>
  )
}

/** What is missing, and what contradicts the rest. */
function Missing({ finding }: { finding: FindingData }) {
  if (finding.questions.length + finding.look_again.length === 0) return null
  return (
    <Card p="3">
      <Section title="Look at this">
        {finding.look_again.map((one) => (
          <Text key={`${one.burn} ${one.patch}`} fontSize="15px" color="emberOnSoft" fontWeight="600">
            {one.here ? '' : `${one.plate}: `}
            {one.why}
          </Text>
        ))}
        {finding.questions.map((one) => (
          <Text key={one} fontSize="15px">
            {one}
          </Text>
        ))}
      </Section>
    </Card>
  )
}
