import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { LiveRun, Plate, TrialPageData } from '../../api/types'
import { doseOf } from '../../plate/DoseRail'
import { Card, Key, Numeral, Section } from '../../shared/Parts'
import { useParameter, useProcess, useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'
import { clockUnit, counted, minutes, patchesOf } from '../../shared/words'
import { ByTheClock, ClockControls } from './ByTheClock'
import { Confirm } from './Checklist'
import { HandTurn } from './HandTurn'
import { correctionWords } from './liveRun'
import { NudgeCard } from './NudgeCard'
import { SAID, TOLD } from './useLiveRun'
import { partOf, plateOfStep, stepCount } from '../../plate/ofStep'
import { useBurn } from './useBurn'

const HOW: Record<LiveRun['how'], string> = {
  whole: 'Burning',
  rest: 'Burning the rest',
  again: 'Burning again in place',
  dark: 'Dry run, beam off',
  outline: 'Showing the outline',
}

interface RunningProps {
  plate: Plate
  run: LiveRun
}

/** How far it is, what burns now, and what one can do about it. */
export function RunningCard({ plate, run }: RunningProps) {
  const { page } = useBurn()
  const patches = run.parts.filter((part) => plate.patches.some((patch) => patch.id === partOf(part).patch))
  const reached = patches.filter((part) => run.done.includes(part)).length
  const percent = Math.round(run.share * 100)
  const over = run.by_clock && run.current === null && !run.stop
  return (
    <>
      <Box>
        <Text
          fontSize="12.5px"
          fontWeight="600"
          letterSpacing="0.06em"
          color="ink2"
          textTransform="uppercase"
        >
          {headingOf(run, over)}
        </Text>
        {run.how !== 'outline' && (
          <>
            <Flex align="baseline" gap="5" wrap="wrap">
              <Numeral size="l" value={minutes(run.seconds_left)} unit={clockUnit(run.seconds_left)} />
              {patches.length > 0 && (
                <Numeral
                  size="m"
                  value={String(
                    Math.min(
                      patches.length,
                      reached + (run.current && patches.includes(run.current) ? 1 : 0),
                    ),
                  )}
                  unit={`of ${stepCount(plate) > 1 ? counted(patches.length, 'part') : patchesOf(patches.length)}`}
                />
              )}
              <Numeral size="s" value={String(percent)} unit="%" />
            </Flex>
            <Box
              role="progressbar"
              aria-label="Burned so far"
              aria-valuenow={percent}
              aria-valuemin={0}
              aria-valuemax={100}
              mt="2"
              height="10px"
              borderRadius="5px"
              bg="line"
              overflow="hidden"
            >
              <Box height="100%" bg="ember" style={{ width: `${run.share * 100}%` }} />
            </Box>
          </>
        )}
      </Box>
      {!run.stop && run.how !== 'outline' && <BurningNow plate={plate} run={run} process={page.process} />}
      {!run.stop && (run.by_clock ? <ByTheClock run={run} /> : <Corrections run={run} />)}
      {run.how === 'outline' && <NudgeCard run={run} />}
    </>
  )
}

function headingOf(run: LiveRun, over: boolean): string {
  if (run.state === 'connecting') return 'Reaching the machine'
  if (run.state === 'held') return run.by_clock ? 'It rests' : 'Held, beam off'
  if (run.state === 'waiting') return 'Waits for your hand, time left'
  if (over) return 'By the clock it is done'
  if (run.by_clock) return 'By the clock, time left'
  return run.how === 'outline' ? 'Showing the outline until you stop it' : `${HOW[run.how]}, time left`
}

function BurningNow({
  plate,
  run,
  process: key,
}: {
  plate: Plate
  run: LiveRun
  process: TrialPageData['process']
}) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  // Between two patches the next one is named already.
  const now = run.current ?? run.parts[run.done.length] ?? null
  // Of several steps its settings are those of the one that burns.
  const part = now === null ? null : partOf(now)
  const steps = stepCount(plate)
  const byStep = plateOfStep(plate, (part?.step ?? 0) % steps)
  const patch = byStep.patches.find((one) => one.id === part?.patch)
  const step = steps > 1 ? byStep.trial.steps?.[(part?.step ?? 0) % steps] : undefined
  const process = useProcess(step?.process ?? key)
  const figure = (setting: string) => {
    const value = patch?.settings[setting]
    if (value === undefined) return null
    const { value: number, unit } = shown(value, parameter(setting), inventory.units, units)
    return <Numeral size="s" value={String(number)} unit={unit} />
  }
  return (
    <Card p="3">
      <Section
        title={patch ? `Burning now: ${patch.id}${step ? `, ${step.name}` : ''}` : 'Burning now'}
        minH="58px"
      >
        {patch ? (
          <Flex gap="4" align="baseline" wrap="wrap">
            {figure('speed_mm_s')}
            {figure('power_pct')}
            <Text color="ink2">
              {doseOf(patch).toPrecision(3)} {process.dose_unit}
            </Text>
          </Flex>
        ) : (
          <Text fontSize="17px">{now ?? 'nothing yet'}</Text>
        )}
      </Section>
    </Card>
  )
}

/** Power and speed in steps, the focus nudged; what follows is kept as it is really burned. */
function Corrections({ run }: { run: LiveRun }) {
  const { actions } = useBurn()
  const { me } = useShop()
  const mine = run.holder?.id === me.id
  const { corrections } = useShop().inventory
  const takes = corrections.filter(({ what }) => run.takes.includes(what) && what in run.corrections)
  if (takes.length === 0 || run.how === 'dark' || run.how === 'outline') return null
  return (
    <Card p="3">
      <Section title="Correct while it burns">
        <Grid templateColumns={`repeat(${takes.length}, minmax(0, 1fr))`} gap="3">
          {takes.map((turning) => {
            const { what, most } = turning
            const steps = run.corrections[what] ?? 0
            const turn = (by: number) => actions.tell(TOLD.correct(run.key, what, steps + by))
            return (
              <Box key={what}>
                <Flex justify="space-between" align="baseline" mb="1">
                  <Text fontWeight="600" fontSize="14px">
                    {what}
                  </Text>
                  <Text fontFamily="numeral" fontWeight="700" fontSize="16px">
                    {correctionWords(turning, steps)}
                  </Text>
                </Flex>
                <Flex gap="1.5">
                  {[-1, 1].map((by) => (
                    <Button
                      key={by}
                      look="quiet"
                      flex="1"
                      minW="0"
                      px="0"
                      height="44px"
                      fontSize="20px"
                      aria-label={`${what} ${by < 0 ? 'down' : 'up'}`}
                      disabled={!mine || Math.abs(steps + by) > most}
                      onClick={() => turn(by)}
                    >
                      {by < 0 ? '−' : '+'}
                    </Button>
                  ))}
                </Flex>
              </Box>
            )
          })}
        </Grid>
      </Section>
    </Card>
  )
}

/** Hold and stop for everybody; to go on takes the control, and somebody at the machine. */
export function Controls({ run }: { run: LiveRun }) {
  const { actions } = useBurn()
  const { me } = useShop()
  const mine = run.holder?.id === me.id
  return (
    <Box
      position={{ base: 'fixed', lg: 'static' }}
      bottom="0"
      left="0"
      right="0"
      bg="paper"
      px={{ base: '4', lg: '0' }}
      py="2"
      zIndex="2"
      borderTopWidth={{ base: '1px', lg: '0' }}
      borderColor="line"
    >
      <Flex justify="space-between" align="center" gap="3" mb="2">
        <Text fontSize="14.5px">
          <Text as="span" fontFamily="numeral" fontWeight="700" fontSize="20px" hideFrom="lg" mr="2">
            {run.how !== 'outline' && `${minutes(run.seconds_left)} ${clockUnit(run.seconds_left)}`}
          </Text>
          {run.by_clock
            ? `Started by ${run.holder?.name ?? 'nobody'}; the machine says nothing.`
            : mine
              ? 'You hold the control.'
              : `${run.holder?.name ?? 'Nobody'} holds the control.`}
        </Text>
        {!mine && !run.by_clock && me.may_write && (
          <Button look="link" onClick={() => actions.tell(TOLD.control(run.key))}>
            Take it over
          </Button>
        )}
      </Flex>
      {run.stop && (
        <Box mb="2">
          <HandTurn
            key={run.stop.parts[0]}
            stop={run.stop}
            mine={mine || run.by_clock}
            onTurned={(shown) => {
              const part = run.stop?.parts[0] ?? ''
              if (run.by_clock) actions.clock(SAID.turned(run.burn_id ?? 0, part, shown))
              else actions.tell(TOLD.turned(run.key, part, shown))
            }}
          />
        </Box>
      )}
      {run.by_clock ? <ClockControls run={run} /> : <LinkControls run={run} mine={mine} />}
      <Text fontSize="13px" color="ink2" mt="1.5" hideBelow="lg">
        {run.by_clock
          ? 'Nothing here reaches the machine.'
          : 'This is no emergency stop. That one is at the machine.'}
      </Text>
    </Box>
  )
}

function LinkControls({ run, mine }: { run: LiveRun; mine: boolean }) {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const [there, setThere] = useState(false)
  return (
    <>
      {run.state === 'held' && (
        <Confirm label={`I stand at ${page.head}, and it may go on.`} checked={there} onChange={setThere} />
      )}
      <Flex gap="2">
        {run.state === 'held' ? (
          <Button
            look="emberLine"
            flex="1"
            height="56px"
            fontSize="17px"
            disabled={!there || !mine}
            onClick={() => actions.tell(TOLD.goOn(run.key, there))}
          >
            Go on
          </Button>
        ) : run.stop ? null : (
          <Button
            look="quiet"
            flex="1"
            height="56px"
            fontSize="17px"
            disabled={!me.may_write}
            onClick={() => actions.tell(TOLD.hold(run.key))}
          >
            Hold <Key>space</Key>
          </Button>
        )}
        <Button
          look="ember"
          flex="1"
          height="56px"
          fontSize="17px"
          disabled={!me.may_write}
          onClick={() => actions.tell(TOLD.stop(run.key))}
        >
          Stop <Key>esc</Key>
        </Button>
      </Flex>
    </>
  )
}
