import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import { ProblemError, answer, api } from '../../api/client'
import { isOver } from '../../api/runs'
import type { NextCoupon, Patch, Plate, TrialPageData } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice, SelectField } from '../../shared/Fields'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Failure, Key, Numeral, Section, Waiting } from '../../shared/Parts'
import {
  useInMyUnits,
  useOutcomeWords,
  useParameter,
  useProcess,
  useScales,
  useSettingsOn,
  useShop,
} from '../../shared/ShopContext'
import { shown, unitOf, unitSign } from '../../shared/units'
import { ALWAYS_SHOWN, patchesOf } from '../../shared/words'
import { expectedOf } from '../../recipes/aims'
import { ARROWS, neighbour } from '../../plate/geometry'
import { OutcomePlate } from '../OutcomePlate'
import { TypedField } from '../plan/TypedField'
import { scoresOf } from '../read/scoring'
import { BurnPlate } from './BurnPlate'
import { Checklist, Confirm } from './Checklist'
import { Conditions, useConditions } from './Conditions'
import { FilesCard } from './FilesCard'
import { FromFile } from './FromFile'
import { logOf, patchStates } from './liveRun'
import { useMounted } from './Mounted'
import { PlaceByEye } from './PlaceByEye'
import { BurnLog } from './Remarks'
import { Controls, RunningCard } from './RunningCard'
import { BurnContext, useBurn } from './useBurn'
import { useBurnKeys } from './useBurnKeys'
import { unreadCoupon, useCoupon, waits } from './useCoupon'
import { TOLD, useBurnActions, useLiveRun } from './useLiveRun'

/** Coupon by coupon: burn one, say what came of it, take what is offered next or type over it. */
export function OneByOne({ page }: { page: TrialPageData }) {
  const actions = useBurnActions(page)
  const plate = waits(page) ? page.plate : page.burned
  if (!plate) return <Text>This coupon cannot be drawn: {page.problem?.detail}</Text>
  return (
    <BurnContext value={{ page, actions }}>
      <Growing plate={plate} />
    </BurnContext>
  )
}

function Growing({ plate }: { plate: Plate }) {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const process = useProcess(page.process)
  const live = useLiveRun(page)
  const running = live !== null && !isOver(live) ? live : null
  const [active, setActive] = useState<string | null>(null)
  const unread = unreadCoupon(page, process.outcome)
  const { words, of: wordsOf } = useOutcomeWords(process, page.material_id)
  const ids = plate.order
  const states = patchStates(ids, page.runs, page.not_burned, page.burn !== null, null)
  if (running?.current && states.has(running.current)) states.set(running.current, 'burning')
  useBurnKeys((key) => {
    if (!running || !me.may_write || (key !== ' ' && key !== 'Escape')) return false
    if ((key === ' ' && running.state === 'held') || running.stop) return false
    actions.tell(TOLD[key === ' ' ? 'hold' : 'stop'](running.key))
    return true
  })
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      {/* On a phone what one does comes before what one has. */}
      <Flex direction="column" gap="3" order={{ base: 1, lg: 2 }}>
        {running ? (
          <>
            <RunningCard plate={plate} run={running} />
            <Controls run={running} />
          </>
        ) : unread !== null && !waits(page) ? (
          <WhatCame key={unread} patch={unread} />
        ) : (
          <NextCoupon />
        )}
      </Flex>
      <Box order={{ base: 2, lg: 1 }} minW="0">
        {running ? (
          <BurnPlate
            plate={plate}
            texts={[]}
            states={states}
            live={running}
            active={active}
            chosen={new Set()}
            onPick={setActive}
            onWalk={setActive}
          />
        ) : (
          <OutcomePlate
            page={page}
            plate={plate}
            process={process}
            words={words}
            wordsOf={wordsOf}
            scoresFor={(id) => scoresOf(page.readings.find((one) => one.patch === id))}
            active={active}
            onPick={setActive}
            label={`Coupons so far, ${patchesOf(plate.patches.length)}`}
            onKeyDown={(event) => {
              const step = ARROWS[event.key]
              if (!step) return
              event.preventDefault()
              setActive(neighbour(plate.patches, active ?? '', step))
            }}
            tinted
            over={() => null}
          />
        )}
        <Box mt="3">
          <BurnLog entries={logOf(live, page.runs, page.remarks)} onTakeBack={undefined} />
        </Box>
      </Box>
      <KeysHelp
        hints={[
          { keys: ['0', '1', '…'], does: 'what came of it' },
          { keys: ['t'], does: "can't tell" },
          { keys: ['o'], does: 'not burned' },
          { keys: ['Enter'], does: 'burned; in a field: take what is typed' },
          { keys: ['+'], does: 'the same once more' },
          { keys: ['space'], does: 'hold while it burns' },
          { keys: ['esc'], does: 'stop it' },
        ]}
      />
    </Grid>
  )
}

/** What came of the coupon that was burned last: one press. */
function WhatCame({ patch }: { patch: string }) {
  const { page } = useBurn()
  const { me } = useShop()
  const process = useProcess(page.process)
  const worded = useOutcomeWords(process, page.material_id)
  // Some marks turn the other way than marks on their material do.
  const marks = useScales(process).find((one) => one.key === 'turned')?.words ?? []
  const [turned, setTurned] = useState(0)
  const { words, question } = worded.of({ turned })
  const { score, bare } = useCoupon(patch)
  const last = page.runs.at(-1)
  const broken = last && last.state !== 'done' && last.state !== 'running' ? last : null
  const say = (value: number) =>
    score.mutate({ patch, values: { [process.outcome]: value, ...(turned > 0 && { turned }) } })
  const cannotTell = () => score.mutate({ patch, values: {}, cannot_tell: true })
  useBurnKeys((key) => {
    if (!me.may_write || score.isPending) return false
    if (key === 't') cannotTell()
    else if (key === 'o') bare.mutate(patch)
    else if (key === 'i' && marks.length > 0) setTurned((turned + 1) % marks.length)
    else if (/^\d$/.test(key) && Number(key) < words.length) say(Number(key))
    else return false
    return true
  })
  return (
    <Card p="4">
      <Section title={`What came of ${patch}`}>
        {broken && (
          <Text role="status" color="emberOnSoft" fontWeight="600" mb="2">
            The run was {broken.state}: {broken.reason}
          </Text>
        )}
        <CouponNumbers patch={patch} />
        {marks.length > 0 && (
          <Flex align="center" gap="2" mt="2" wrap="wrap">
            <Text fontSize="15px" color="ink2">
              It turned
            </Text>
            <Choice
              label="It turned"
              value={String(turned)}
              onPick={(picked) => setTurned(Number(picked))}
              options={marks.map((word, degree) => ({ value: String(degree), label: word }))}
            />
          </Flex>
        )}
        <Text fontWeight="600" fontSize="18px" mt="2" mb="2">
          {question}
        </Text>
        <Grid
          templateColumns={words.length > 4 ? 'repeat(3, 1fr)' : 'repeat(2, 1fr)'}
          gap="2"
          role="group"
          aria-label={question}
        >
          {words.map((word, value) => (
            <Button
              key={word}
              look="quiet"
              height="72px"
              disabled={!me.may_write}
              loading={score.isPending && score.variables.values[process.outcome] === value}
              onClick={() => say(value)}
            >
              <Flex direction="column" align="center" lineHeight="1.15">
                <Text fontFamily="numeral" fontSize="28px" fontWeight="700">
                  {value}
                </Text>
                <Text fontSize="15px">{word}</Text>
              </Flex>
            </Button>
          ))}
        </Grid>
        <Grid templateColumns="1fr 1fr" gap="2" mt="2">
          <Button disabled={!me.may_write} onClick={cannotTell}>
            <Key>t</Key> can't tell
          </Button>
          <Button disabled={!me.may_write} loading={bare.isPending} onClick={() => bare.mutate(patch)}>
            <Key>o</Key> not burned
          </Button>
        </Grid>
        {score.error && <Sentence error={score.error} />}
      </Section>
    </Card>
  )
}

/** The settings of a coupon, large, in my units. */
function CouponNumbers({ patch }: { patch: string }) {
  const { page } = useBurn()
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const settings = page.burned?.patches.find((one) => one.id === patch)?.settings ?? {}
  return (
    <Flex gap="4" wrap="wrap">
      {ALWAYS_SHOWN.flatMap((key) => {
        const value = settings[key]
        if (value === undefined) return []
        const said = shown(value, parameter(key), inventory.units, units)
        const name = key === 'passes' && value === 1 ? 'pass' : parameter(key).name
        return [<Numeral key={key} size="m" value={said.value} unit={said.unit || name} />]
      })}
    </Flex>
  )
}

function Sentence({ error }: { error: Error }) {
  const inMyUnits = useInMyUnits()
  return (
    <Text role="alert" color="emberOnSoft" mt="2">
      {inMyUnits(error.message)}
    </Text>
  )
}

/** Why the next coupon has these settings: as they were offered, or as somebody planned them. */
function whyThis(page: TrialPageData, planned: Patch | undefined, offered: NextCoupon | undefined): string {
  if (!page.burn) return page.reason
  const asOffered =
    !planned ||
    Object.entries(offered?.settings ?? {}).every(([key, value]) => planned.settings[key] === value)
  return asOffered ? (offered?.why ?? '') : 'Planned, and not burned yet.'
}

/** The coupon to burn next, why, and the ways to burn it. */
function NextCoupon() {
  const { page, actions } = useBurn()
  const { me, inventory, units } = useShop()
  const inMyUnits = useInMyUnits()
  const parameter = useParameter()
  const choices = useSettingsOn(page.head_id, page.process)
  const coupon = useCoupon(null)
  const conditions = useConditions(page)
  const mounted = useMounted(page.head_id)
  const [seen, setSeen] = useState(false)
  const [more, setMore] = useState<ReadonlySet<string>>(new Set())
  const { settings, offered, planned, burned, files, last } = coupon
  const there = seen && mounted.right
  const settled = !planned && offered.data?.settled === true
  const begin = () =>
    actions.begin.mutate(async () => {
      const { edit } = await coupon.plan()
      return answer(
        api.POST('/api/trials/{id}/live', {
          params: { path: { id: page.id } },
          body: { ...conditions.form, edit, how: 'whole', at_machine: there, mounted: mounted.head },
        }),
      )
    })
  const onBurned = () => burned.mutate(conditions.form)
  useBurnKeys((key) => {
    if (!me.may_write) return false
    if (key === '+' && last) coupon.setAll({ ...last.settings })
    else if (key === 'Enter' && !page.link && !burned.isPending) onBurned()
    else return false
    return true
  })
  if (offered.isError) return <Failure error={offered.error} retry={() => void offered.refetch()} />
  if (!settings) return <Waiting what="the next coupon" height="220px" />
  const error = burned.error ?? files.error ?? actions.begin.error
  const errors = error instanceof ProblemError ? error.byPath() : new Map<string, string>()
  const moves = last && choices.filter(({ key }) => String(settings[key]) !== String(last.settings[key]))
  const inSight = choices.filter(
    ({ key }) =>
      key in settings &&
      (ALWAYS_SHOWN.includes(key) || more.has(key) || moves?.some((one) => one.key === key)),
  )
  const others = choices.filter((choice) => !inSight.includes(choice))
  return (
    <Card p="4">
      <Section title={last ? `After ${last.id}: burn one more` : 'Burn the first coupon'}>
        <Text fontSize="17px" mb="2">
          {inMyUnits(whyThis(page, planned, offered.data))}
        </Text>
        <Grid templateColumns="repeat(3, 1fr)" gap="2">
          {inSight.map((row) => (
            <Box key={row.key} minW="0">
              <Text fontSize="14px" color="ink2">
                {row.name} {unitSign(unitOf(inventory.units, row.quantity, units)?.symbol ?? row.unit)}
              </Text>
              <TypedField
                label={`${row.name} of the next coupon`}
                value={settings[row.key]}
                parameter={row}
                error={errors.get(`listed.settings[0].${row.key}`)}
                onType={(text) => coupon.set(row.key, text)}
                onLeave={() => undefined}
                height="58px"
                fontSize="30px"
                fontFamily="numeral"
                px="0"
              />
            </Box>
          ))}
        </Grid>
        {moves && moves.length > 1 && (
          <Text color="emberOnSoft" fontSize="14.5px" mt="1">
            {moves.length} things change at once ({moves.map(({ key }) => parameter(key).name).join(', ')}):
            then nobody knows which of them helped.
          </Text>
        )}
        {offered.data?.predicted && !planned && (
          <Text color="ink2" fontSize="14.5px" mt="1">
            {expectedOf(offered.data.predicted)}
          </Text>
        )}
        <Flex gap="2" mt="1" wrap="wrap">
          {last && (
            <Button size="sm" onClick={() => coupon.setAll({ ...last.settings })}>
              <Key>+</Key> {last.id} once more
            </Button>
          )}
          {others.length > 0 && (
            <SelectField
              label="Change another setting"
              hideLabel
              compact
              value=""
              onPick={(key) => {
                setMore(new Set([...more, key]))
                if (!(key in settings)) coupon.set(key, String(parameter(key).default ?? ''))
              }}
              options={[
                { value: '', label: 'change another setting …' },
                ...others.map(({ key, name }) => ({ value: key, label: name })),
              ]}
            />
          )}
        </Flex>
        {page.link && mounted.question}
        {page.link && <Confirm label={`I stand at ${page.head}`} checked={seen} onChange={setSeen} />}
        {error && <Sentence error={error} />}
        <Flex direction="column" gap="2" mt="3">
          {settled && (
            <Button asChild look="ember" size="xl">
              <RouterLink to={`/trials/${page.id}/decide?patch=${offered.data?.after}`}>Keep it</RouterLink>
            </Button>
          )}
          {page.link && (
            <Button
              look={settled ? 'quiet' : 'ember'}
              size={settled ? 'md' : 'xl'}
              disabled={!there || !me.may_write}
              loading={actions.begin.isPending}
              onClick={begin}
            >
              Burn it
            </Button>
          )}
          {page.link && (
            <PlaceByEye
              there={there}
              mounted={mounted.head}
              planned={async () => (await coupon.plan()).edit}
            />
          )}
          <Button
            look={page.link || settled ? 'quiet' : 'ember'}
            size={page.link || settled ? 'md' : 'xl'}
            disabled={!me.may_write}
            loading={burned.isPending}
            onClick={onBurned}
          >
            I burned it
          </Button>
        </Flex>
        <Box mt="3">
          {page.frozen && planned ? (
            <FilesCard />
          ) : (
            <Button
              size="sm"
              look="link"
              disabled={!me.may_write}
              loading={files.isPending}
              onClick={() => files.mutate()}
            >
              Get its files
            </Button>
          )}
        </Box>
        <Box mt="2">
          <FromFile title="Before the start">
            <Checklist checks={page.checklist} stands={page.stand_off} />
          </FromFile>
          {!page.burn && (
            <FromFile title="How it is burned">
              <Conditions {...conditions} errors={errors} />
            </FromFile>
          )}
        </Box>
        {page.burn && (
          <Text fontSize="14px" color="ink2" mt="2">
            {patchesOf(page.burned?.patches.length ?? 0)} so far.
          </Text>
        )}
      </Section>
    </Card>
  )
}
