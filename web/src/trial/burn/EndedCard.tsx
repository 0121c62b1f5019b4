import { Button } from '../../shared/Button'
import { Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../../api/client'
import type { Burn, Run, TrialPageData } from '../../api/types'
import { Choice } from '../../shared/Fields'
import { Card, Section } from '../../shared/Parts'
import { useProcess, useShop } from '../../shared/ShopContext'
import { dayAndTime, patchesOf } from '../../shared/words'
import { burnQuery, useShownBurn } from '../shownBurn'
import { Confirm } from './Checklist'
import { GrowButton } from './GrowButton'
import { PutRight } from './PutRight'
import type { PatchState } from './liveRun'
import { useMounted } from './Mounted'
import { useBurn } from './useBurn'

interface EndedProps {
  burn: Burn
  states: Map<string, PatchState>
  active: string | null
  onToggle: (id: string) => void
}

/** What was burned, by whom and how, and what is left to do. */
export function EndedCard({ burn, states, active, onToggle }: EndedProps) {
  const { page } = useBurn()
  const { me } = useShop()
  const process = useProcess(page.process)
  const shown = useShownBurn()
  const last = page.runs.at(-1)
  const broken = last && last.state !== 'done' && last.state !== 'running' ? last : null
  const waiting = [...states].filter(([, state]) => state === 'waiting').map(([id]) => id)
  const uncertain = [...states].filter(([, state]) => state === 'uncertain').map(([id]) => id)
  const skipped = active !== null && page.not_burned.includes(active)
  return (
    <>
      {broken && <Broken burn={burn} run={broken} waiting={waiting} />}
      <Card p="4">
        <Section title={broken ? 'What there is' : 'Burned'}>
          <Text fontWeight="600" fontSize="17px">
            {dayAndTime(burn.at)}, {burn.by_name}
          </Text>
          <Conditions burn={burn} />
          {burn.corrected_at && (
            <Text color="ink2" fontSize="14px">
              Put right {dayAndTime(burn.corrected_at)} by {burn.corrected_by}.
            </Text>
          )}
          <Text mt="2">{bareWords(page, waiting, uncertain)}</Text>
          {page.runs
            .filter((run) => run.doubtful)
            .map((run) => (
              <Text key={run.id} mt="1">
                {putBackWords(run)}
              </Text>
            ))}
          {process.passes_through && (
            <Text mt="1" fontSize="14.5px" color="ink2">
              Lift it out, take its photo, then push what still holds, then note what came of it.
            </Text>
          )}
          <Flex gap="2" mt="3" wrap="wrap">
            <Button asChild look={broken && waiting.length > 0 ? 'quiet' : 'ember'} size="lg">
              <RouterLink to={`/trials/${page.id}/read${burnQuery(shown)}`}>Read the plate</RouterLink>
            </Button>
            {active && me.may_write && (
              <Button look="quiet" size="lg" onClick={() => onToggle(active)}>
                {active} {skipped ? 'was burned after all' : 'was not burned'}
              </Button>
            )}
            {!broken && shown.burn === null && burn.revision === page.revision && <GrowButton />}
          </Flex>
          <PutRight burn={burn} />
        </Section>
      </Card>
    </>
  )
}

const putBackWords = ({ parts }: Run) =>
  `${parts.map(({ name }) => name).join(', ')} burned again after the piece was put back: what ${parts.length === 1 ? 'it' : 'they'} got is in doubt.`

const notReached = (count: number) => `${patchesOf(count)} ${count === 1 ? 'was' : 'were'} not reached.`

function bareWords(page: TrialPageData, waiting: string[], uncertain: string[]): string {
  if (uncertain.length > 0) {
    const rest = waiting.length > 0 ? ` ${notReached(waiting.length)}` : ''
    return `Nobody knows whether ${uncertain.join(', ')} was burned whole.${rest}`
  }
  if (waiting.length > 0) return notReached(waiting.length)
  if (page.not_burned.length === 0) return 'Every patch was burned. If one was not, choose it on the plate.'
  return `Not burned: ${page.not_burned.join(', ')}.`
}

function Conditions({ burn }: { burn: Burn }) {
  const { lays } = useShop().inventory.forms
  // What lies flat, as nearly everything does, is not said.
  const lay = lays.find(({ key }) => key === burn.lay && key !== 'flat')
  const lines = [
    ['Lot', [burn.lot, burn.measured_mm && `${burn.measured_mm} mm measured`].filter(Boolean).join(', ')],
    ['Focus', burn.focus],
    ['Air', burn.air],
    ['Cleaned with', burn.cleaning],
    ['Held down by', burn.hold_down],
    [
      'It lay',
      lay &&
        [lay.name, burn.roller_mm && `Ø ${burn.roller_mm} mm`, burn.stack_of && `${burn.stack_of} sheets`]
          .filter(Boolean)
          .join(', '),
    ],
    ['Below it', burn.below],
    ['Tabs', burn.tabs],
    ['Note', burn.note],
  ].filter(([, value]) => value)
  return lines.map(([name, value]) => (
    <Text key={name}>
      <Text as="span" color="ink2">
        {name}:
      </Text>{' '}
      {value}
    </Text>
  ))
}

interface BrokenProps {
  burn: Burn
  run: Run
  waiting: string[]
}

type Seen = 'burned' | 'bare' | 'unknown'

const SEEN: { value: Seen; label: string }[] = [
  { value: 'burned', label: 'burned whole' },
  { value: 'bare', label: 'bare: burn it' },
  { value: 'unknown', label: "can't tell" },
]

function partWords(part: Run['parts'][number]): string {
  if (part.kind === 'labels') return 'The labels were being drawn'
  return part.kind === 'outline' ? 'The plate was being cut out' : `${part.name} was burning`
}

/** A burn that did not come to its end: why, what of the uncertain patch, and the rest. */
function Broken({ burn, run, waiting }: BrokenProps) {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const [still, setStill] = useState(false)
  const mounted = useMounted(page.head_id)
  const there = still && mounted.right
  const [seen, setSeen] = useState<Seen | ''>('')
  const uncertain = run.parts.find((part) => part.state === 'uncertain')
  const { begin } = actions
  const answered = !uncertain || seen !== ''
  const left = waiting.length > 0 || uncertain !== undefined
  return (
    <Card p="4" borderColor="ember" bg="emberSoft">
      <Section title={run.state === 'stopped' ? 'Stopped' : 'Interrupted'}>
        <Text fontWeight="600">{run.state === 'stopped' ? `Stopped ${run.reason}.` : run.reason}</Text>
        {uncertain && (
          <>
            <Text mt="2" mb="1.5">
              {partWords(uncertain)} then. How does it look?
            </Text>
            <Choice label={`How ${uncertain.name} came out`} value={seen} options={SEEN} onPick={setSeen} />
          </>
        )}
        {page.link && left && (
          <>
            {mounted.question}
            <Confirm
              label={`Nothing has moved, and I stand at ${page.head}.`}
              checked={still}
              onChange={setStill}
            />
            {begin.error && (
              <Text role="alert" color="emberOnSoft" mb="2">
                {begin.error.message}
              </Text>
            )}
            <Button
              look="ember"
              size="lg"
              loading={begin.isPending}
              disabled={!there || !answered || !me.may_write}
              onClick={() =>
                begin.mutate(() =>
                  answer(
                    api.POST('/api/burns/{id}/rest', {
                      params: { path: { id: burn.id } },
                      body: { uncertain: seen || 'unknown', at_machine: there, mounted: mounted.head },
                    }),
                  ),
                )
              }
            >
              Carry on with the rest
            </Button>
          </>
        )}
      </Section>
    </Card>
  )
}
