import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useMemo, useState } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Plate, RemarkKind, TrialPageData } from '../../api/types'
import { partOf } from '../../plate/ofStep'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Numeral } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import { Choice } from '../../shared/Fields'
import { clockUnit, minutes, trialName } from '../../shared/words'
import { useShownBurn } from '../shownBurn'
import { useNotBurned } from '../useNotBurned'
import { AgainCard } from './AgainCard'
import { BurnForm } from './BurnForm'
import { BurnPlate } from './BurnPlate'
import { EndedCard } from './EndedCard'
import { FilesCard } from './FilesCard'
import { FromFile } from './FromFile'
import { OneByOne } from './OneByOne'
import { isOver } from '../../api/runs'
import { isBurning, logOf, patchStates } from './liveRun'
import { BurnLog, RemarkButtons, useRemarks } from './Remarks'
import { Controls, RunningCard } from './RunningCard'
import { useBurnKeys } from './useBurnKeys'
import { TOLD, useBurnActions, useLiveRun } from './useLiveRun'
import { useNotices } from './useNotices'
import './burn.css'
import { BurnContext } from './useBurn'
import { grows } from './useCoupon'

/** Burn: from the checklist to the log, live or with a file. */
export function BurnStage({ page }: { page: TrialPageData }) {
  const burn = page.burn
  const earlier = useShownBurn().burn !== null
  if (grows(page) && !earlier) return <OneByOne page={page} />
  // Somebody who asks for an earlier burn wants that one, and not what comes next.
  const fresh = !earlier && page.frozen && (!burn || burn.revision < page.revision)
  const plate = fresh || !page.burned ? page.plate : page.burned
  if (!plate) return <Text>This plan cannot be drawn: {page.problem?.detail}</Text>
  return <Burning page={page} plate={plate} fresh={fresh} />
}

function Burning({ page, plate, fresh }: { page: TrialPageData; plate: Plate; fresh: boolean }) {
  const { me } = useShop()
  const burn = page.burn
  const live = useLiveRun(page)
  const actions = useBurnActions(page)
  const remarks = useRemarks()
  const [told, setTold] = useNotices(live, trialName(page.number))
  const skip = useNotBurned(page)
  const [again, setAgain] = useState(false)
  const [active, setActive] = useState<string | null>(null)
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())

  const running = live !== null && !isOver(live) ? live : null
  const burned = burn !== null && !fresh
  const ids = useMemo(() => [...new Set(plate.order.map((name) => partOf(name).patch))], [plate.order])
  const said = burned ? { runs: page.runs, bare: page.not_burned } : { runs: [], bare: [] }
  const states = patchStates(plate.order, said.runs, said.bare, burned, running)
  const remarkable = burn !== null && (running ? isBurning(running) : burned) && me.may_write
  const current = running?.current ? partOf(running.current).patch : null
  const about = running ? (current !== null && ids.includes(current) ? current : null) : active
  // Which one burns at this very moment the server knows better than what it said a second ago.
  const noted = running?.by_clock ? null : about
  const choose = (id: string) => {
    const next = new Set(chosen)
    if (!next.delete(id) && ids.includes(id)) next.add(id)
    setChosen(next)
  }
  const chooseAll = (some: string[]) => {
    const wanted = some.filter((id) => ids.includes(id))
    const all = wanted.every((id) => chosen.has(id))
    setChosen(new Set(all ? [...chosen].filter((id) => !wanted.includes(id)) : [...chosen, ...wanted]))
  }
  const toggle = (id: string) => {
    if (burned && !running && me.may_write && ids.includes(id)) skip(id)
  }
  const onKey = (key: string): boolean => {
    const remark = remarks.find((one) => one.letter === key)
    const tell = (what: 'hold' | 'stop') => {
      // Nothing reaches a machine that is followed by the clock.
      if (running && !running.by_clock && me.may_write) actions.tell(TOLD[what](running.key))
    }
    if (running && key === 'Escape') tell('stop')
    // Held already: a second press changes nothing, and surely lights no beam.
    else if (running && key === ' ') {
      if (running.state === 'held' || running.stop) return false
      tell('hold')
    } else if (remark && remarkable) actions.remark({ kind: remark.key, patch: noted })
    else if (!running && burned && key === 'o' && active) toggle(active)
    else if (!running && burned && key === 'a' && active) choose(active)
    else return false
    return true
  }
  useBurnKeys(onKey)

  const fromFile = !burned || again
  const entries = logOf(live, burned || running ? page.runs : [], burned || running ? page.remarks : [])
  return (
    <BurnContext value={{ page, actions }}>
      <Grid
        templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }}
        gap="6"
        alignItems="start"
        templateRows={{ lg: 'auto 1fr' }}
      >
        <BurnPlate
          plate={plate}
          texts={fresh || !page.burned ? page.texts : page.burned_texts}
          states={states}
          live={running}
          active={active}
          chosen={chosen}
          onPick={setActive}
          onWalk={setActive}
        />
        <Flex direction="column" gap="3" gridRow={{ lg: '1 / span 2' }} gridColumn={{ lg: '2' }}>
          {running && <RunningCard plate={plate} run={running} />}
          {/* What it waits for comes first. */}
          {running?.stop && <Controls run={running} />}
          {!running && (
            <Flex gap="6">
              <Numeral size="m" value={minutes(plate.seconds)} unit={clockUnit(plate.seconds)} />
              <Numeral
                size="m"
                value={String(ids.length)}
                unit={`${ids.length === 1 ? 'patch' : 'patches'}${plate.order.length > ids.length ? `, ${plate.order.length} parts` : ''}`}
              />
            </Flex>
          )}
          {!running && !page.frozen && <NotFetched trial={page.id} />}
          {!running && live && !isBurning(live) && fromFile && (
            <TriedOut state={live.state} how={live.how} reason={live.reason} />
          )}
          {!running && page.frozen && fromFile && <BurnForm key={page.edit} />}
          {!running && burned && <EndedCard burn={burn} states={states} active={active} onToggle={toggle} />}
          {remarkable && (
            <RemarkButtons patch={about} onRemark={(kind) => actions.remark({ kind, patch: noted })} />
          )}
          {!running && burned && (
            <AgainCard
              burn={burn}
              active={active}
              chosen={chosen}
              onChoose={choose}
              onChooseAll={chooseAll}
              onClear={() => setChosen(new Set())}
            />
          )}
          {running && !running.stop && <Controls run={running} />}
          {running && !running.by_clock && (
            <Flex gap="3" align="center" wrap="wrap">
              <Text fontSize="14px" color="ink2">
                At the end, a hold or a fault
              </Text>
              <Choice label="Tell me" value={told} onPick={setTold} options={TELL} />
            </Flex>
          )}
          {!running && page.frozen && !fromFile && (
            <FromFile title="Files">
              <FilesCard />
            </FromFile>
          )}
          {!running && burned && !again && (
            <Button look="link" alignSelf="flex-start" onClick={() => setAgain(true)}>
              Burned once more on another piece
            </Button>
          )}
        </Flex>
        <Box pb={{ base: running ? '150px' : '0', lg: '0' }} mt={{ lg: '-3' }}>
          <BurnLog entries={entries} onTakeBack={me.may_write ? actions.takeBack : undefined} />
        </Box>
        <KeysHelp hints={keysOf(remarks)} />
      </Grid>
    </BurnContext>
  )
}

const TELL = [
  { value: 'no', label: 'say nothing' },
  { value: 'sound', label: 'a sound' },
  { value: 'notice', label: 'sound and notice' },
] as const

const keysOf = (remarks: RemarkKind[]) => [
  { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
  { keys: ['space'], does: 'hold while it burns; to go on takes the button' },
  { keys: ['esc'], does: 'stop it' },
  ...remarks.map(({ letter, name }) => ({ keys: [letter], does: `note: ${name}` })),
  { keys: ['o'], does: 'not burned, or burned after all' },
  { keys: ['a'], does: 'choose a patch to burn again' },
]

function NotFetched({ trial }: { trial: number }) {
  return (
    <Card p="3">
      <Text>This plan has not been fixed yet: its files have not been fetched.</Text>
      <Button asChild look="emberLine" mt="2">
        <RouterLink to={`/trials/${trial}/plan`}>Back to the plan</RouterLink>
      </Button>
    </Card>
  )
}

/** How an outline or a dry run ended. */
function TriedOut({ how, state, reason }: { how: string; state: string; reason: string }) {
  const what = how === 'outline' ? 'The outline' : 'The dry run'
  // The outline goes round until somebody stops it.
  const well = state === 'done' || (state === 'stopped' && how === 'outline')
  return (
    <Text role="status" color={well ? 'moss' : 'emberOnSoft'} fontWeight="600">
      {what} {well ? 'went through; nothing was marked.' : `was ${state}: ${reason}`}
    </Text>
  )
}
