import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Link, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef, useState } from 'react'
import type { KeyboardEvent, PointerEvent } from 'react'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../../api/client'
import { trialKey, useDecision, useForgetLists } from '../../api/hooks'
import type { Aim, FailedSetting, KeptAs, Patch, TrialPageData } from '../../api/types'
import { ARROWS, inDrawing, neighbour } from '../../plate/geometry'
import { Legend } from '../../plate/Legend'
import { FailedSettings } from '../../recipes/FailedSettings'
import { Choice, TextField } from '../../shared/Fields'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Section, StandingBadge } from '../../shared/Parts'
import { useTabState } from '../../shared/useTabState'
import { useOutcomeWords, useProcess, useShop } from '../../shared/ShopContext'
import { palette } from '../../theme/palette'
import { variedKeys } from '../../plate/varied'
import { PatchTitle } from '../PatchTitle'
import { KerfCard } from '../KerfCard'
import { ProofCard, ProofsOfBurn } from '../ProofCard'
import { ProveButton } from '../ProveButton'
import { OutcomePlate, OutcomeRail } from '../OutcomePlate'
import { burnQuery, isOfShown, shownStep, useShownBurn } from '../shownBurn'
import { useActivePatch } from '../useActivePatch'
import { scoresOf, walk } from '../read/scoring'
import { outcomeOf } from '../../shared/outcome'
import { FinerBetween } from './FinerBetween'
import { FindingCards } from './FindingCards'
import { MapAbove, MapBelow } from './FindingMap'
import { MarginList } from './MarginList'
import { Probe } from './Probe'
import { WishFields } from './WishFields'
import { probeOn } from './outcomeMap'
import { Slices } from './Slices'
import { useFinding, useSlice, useWish } from './useFinding'

/** Decide: choose a patch, see how near the cliff is, keep it. */
export function DecideStage({ page }: { page: TrialPageData }) {
  const { me } = useShop()
  const process = useProcess(page.process)
  const { words, of: wordsOf } = useOutcomeWords(process, page.material_id)
  const [active, go] = useActivePatch((id) => page.burned?.patches.some((one) => one.id === id) ?? false)
  const step = shownStep(page)
  const decision = useDecision(page.burn?.id ?? null, step, page.readings)
  const shown = useShownBurn()
  const [wish, setWish] = useWish()
  const [slice, setSlice] = useSlice()
  // A real shape or a few say whether a setting holds, and not what another one would do.
  const chooses = page.proof === null
  const { data: finding } = useFinding(
    chooses ? (page.burn?.id ?? null) : null,
    step,
    page.readings,
    wish,
    slice,
  )
  const [aim, setAim] = useState<Aim | null>(null)
  const [at, setAt] = useState<[number, number] | null>(null)
  const focus = useRef<SVGSVGElement>(null)
  useEffect(() => focus.current?.focus({ preventScroll: true }), [])
  const plate = page.burned
  if (!plate) return null
  const patches = plate.patches
  const patch = patches.find((one) => one.id === active)
  const onKeyDown = (event: KeyboardEvent) => {
    const arrow = ARROWS[event.key]
    if (!arrow) return
    event.preventDefault()
    go(neighbour(patches, active ?? '', arrow))
  }
  const scoresFor = (id: string) => scoresOf(page.readings.find((reading) => reading.patch === id))
  const cameOut = (id: string) => (page.not_burned.includes(id) ? null : outcomeOf(scoresFor(id), process))
  const burned = walk(patches, page.not_burned)
  const unread = burned.filter((id) => cameOut(id) === null).length
  // What was chosen here may rest on a patch of another plate, a real shape that was burned with it.
  const isOfHere = (recipe: TrialPageData['recipes'][number]) => recipe.burn_id === page.burn?.id
  const kept = page.recipes.filter(
    (recipe) => recipe.standing !== 'retired' && (recipe.finding_id !== null || isOfHere(recipe)),
  )
  const failedItself = (id: string) => decision.data?.nothing_to_work_by.includes(id) ?? false
  const isKept = (one: Patch) =>
    kept.some((recipe) => isOfHere(recipe) && recipe.patch === one.id && isOfShown(page, recipe.read_as))
  const outcomes = { page, plate, process, words, wordsOf, scoresFor, active, onPick: go }
  const maps = finding?.maps ?? []
  const height = plate.plate.height_mm
  const chosen = aim ?? finding?.candidates[0]?.aim ?? null
  const point = (event: PointerEvent<HTMLElement>) => {
    const svg = focus.current
    if (maps.length === 0 || !svg || (event.pointerType !== 'mouse' && event.buttons === 0)) return
    const place = inDrawing(svg, event)
    setAt(probeOn(maps, place.x, height - place.y) ? [place.x, height - place.y] : null)
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0">
        <Box onPointerMove={point} onPointerDown={point} onPointerLeave={() => setAt(null)}>
          <OutcomePlate
            {...outcomes}
            ref={focus}
            tinted
            map={
              finding && maps.length > 0
                ? {
                    below: maps.map((map, i) => <MapBelow key={i} map={map} plate={plate} />),
                    above: <MapAbove finding={finding} plate={plate} chosen={chosen} at={at} />,
                  }
                : undefined
            }
            label={`Outcomes of plate ${page.code}. Arrows choose a patch.`}
            onKeyDown={onKeyDown}
            over={(one) => isKept(one) && <KeptCorner patch={one} />}
            more={(one) => (isKept(one) ? ', in the book' : '')}
          />
        </Box>
        {finding && maps.length > 0 && (
          <Probe
            inSteps={maps.some((map) => map.key !== 'lightness')}
            dose={maps.some((map) => map.same_dose_mm.length > 0)}
            probed={at && probeOn(maps, ...at)}
            process={process}
            unit={finding.unit}
          />
        )}
        {finding && <Slices slices={finding.slices} onSlice={setSlice} />}
        <Box mt="2">
          <Legend words={words} />
        </Box>
        <OutcomeRail {...outcomes} />
      </Box>
      <Flex direction="column" gap="3">
        <ProofCard page={page} />
        <KerfCard page={page} />
        <ProofsOfBurn page={page} />
        {unread > 0 && (
          <Text fontSize="15px" color="ink2">
            {unread} {unread === 1 ? 'patch has' : 'patches have'} no score yet.{' '}
            <Link asChild color="emberOnSoft" textDecoration="underline">
              <RouterLink to={`/trials/${page.id}/read${burnQuery(shown)}`}>Read on</RouterLink>
            </Link>
          </Text>
        )}
        {finding && page.burn && (
          <>
            <WishFields
              process={process}
              wish={wish}
              canBe={finding.can_be_wanted}
              bounds={finding.can_be_bounded}
              onWish={setWish}
            />
            <FindingCards
              page={page}
              burn={page.burn.id}
              finding={finding}
              wish={wish}
              chosen={chosen}
              onChoose={(one) => {
                setAim(one.aim)
                // Its pin lies on the slice that has its settings.
                for (const { parameter, at } of finding.slices) {
                  const own = one.settings[parameter]
                  if (own !== undefined && own !== at) setSlice(parameter, own)
                }
              }}
            />
          </>
        )}
        {patch ? (
          <Card p="4">
            <PatchTitle patch={patch} process={page.process} varied={variedKeys(plate.trial)} />
            {decision.data?.repeated[patch.id] && (
              <Text fontWeight="600" mt="1">
                {decision.data.repeated[patch.id]}
              </Text>
            )}
            <Box mt="3">
              <MarginList
                outcome={cameOut(patch.id)}
                words={words}
                cut={process.passes_through}
                failed={failedItself(patch.id)}
                neighbours={decision.data?.margins[patch.id] ?? []}
              />
            </Box>
            {cameOut(patch.id) !== null && page.burn && decision.data && (
              <FinerBetween
                key={`finer ${patch.id}`}
                burn={page.burn.id}
                step={step}
                patch={patch.id}
                failed={failedItself(patch.id)}
                others={decision.data[failedItself(patch.id) ? 'worked' : 'failed'][patch.id] ?? []}
                neighbours={decision.data.margins[patch.id] ?? []}
              />
            )}
            {page.proof === null && me.may_write && page.burn && !failedItself(patch.id) && (
              <ProveButton
                look="link"
                size="sm"
                mt="3"
                burn={page.burn.id}
                step={step}
                proved={{ patch: patch.id }}
              />
            )}
            {cameOut(patch.id) !== null && decision.data && (
              <KeepCard key={patch.id} page={page} patch={patch.id} failed={failedItself(patch.id)} />
            )}
          </Card>
        ) : (
          <Card p="4">
            <Text>
              Or choose a patch, on the plate or with the arrow keys, to keep what was really burned.
            </Text>
          </Card>
        )}
        {page.failed.length > 0 && (
          <Card p="4">
            <FailedSettings failed={page.failed} here />
          </Card>
        )}
        {kept.length > 0 && (
          <Card p="4">
            <Section title="In the book from this plate">
              {kept.map((recipe) => (
                <Flex key={recipe.id} gap="2" align="center" py="1">
                  <Text fontWeight="700" minW="34px">
                    {isOfHere(recipe) ? recipe.patch : '–'}
                  </Text>
                  <StandingBadge standing={recipe.standing} />
                  <Link asChild color="emberOnSoft" textDecoration="underline">
                    <RouterLink to={`/book/${recipe.id}`}>
                      {recipe.purpose ||
                        (page.steps.length > 1 ? recipe.process_name.toLowerCase() : 'recipe')}
                    </RouterLink>
                  </Link>
                </Flex>
              ))}
            </Section>
          </Card>
        )}
      </Flex>
      <KeysHelp hints={[{ keys: ['← → ↑ ↓'], does: 'choose a patch' }]} />
    </Grid>
  )
}

/** A folded corner: this patch is in the book. */
function KeptCorner({ patch }: { patch: Patch }) {
  const size = Math.min(patch.width_mm, patch.height_mm) * 0.3
  return <path d={`M0,0h${size}l${-size},${size}z`} fill={palette.moss} />
}

/** A patch that came out is kept as a recipe; one that did not, or is not wanted, as what failed. */
function KeepCard({ page, patch, failed }: { page: TrialPageData; patch: string; failed: boolean }) {
  const { me } = useShop()
  const [asFailed, setAsFailed] = useState(failed)
  if (!me.may_write) return <Text mt="3">You are here as {me.role}; a member can keep recipes.</Text>
  return (
    <Box mt="4" pt="3" borderTopWidth="1px" borderColor="line">
      {asFailed ? <KeepFailed page={page} patch={patch} /> : <KeepForm page={page} patch={patch} />}
      {!failed && (
        <Button look="link" size="sm" mt="2" onClick={() => setAsFailed(!asFailed)}>
          {asFailed ? 'Keep it as a recipe after all' : 'It failed all the same: keep it as that'}
        </Button>
      )}
    </Box>
  )
}

/** Kept so that nobody burns it again: seen under its material, never an answer. */
function KeepFailed({ page, patch }: { page: TrialPageData; patch: string }) {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [note, setNote, forgetNote] = useTabState(`failed.${page.burn?.id}.${patch}.${shownStep(page)}`, '')
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/api/failed-settings', {
          body: { burn: page.burn?.id ?? 0, patch, step: shownStep(page), note },
        }),
      ),
    onSuccess: async () => {
      forgetNote()
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
    },
  })
  const here = (one: FailedSetting) =>
    one.patch === patch && one.burn_id === page.burn?.id && isOfShown(page, one.step)
  if (page.failed.some(here)) {
    return (
      <Text color="emberOnSoft" fontWeight="600" role="status">
        {patch} is kept as what failed.
      </Text>
    )
  }
  return (
    <>
      <TextField
        label="Note"
        value={note}
        placeholder="what the next one should know"
        onChange={(event) => setNote(event.currentTarget.value)}
      />
      <Flex mt="3" gap="3" align="center" wrap="wrap">
        <Text fontSize="14px" color="ink2" flex="1" minW="160px">
          Listed under {page.material}, never offered as an answer.
        </Text>
        <Button look="quiet" size="lg" loading={keep.isPending} onClick={() => keep.mutate()}>
          Keep as failed
        </Button>
      </Flex>
      {keep.error && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {keep.error.message}
        </Text>
      )}
    </>
  )
}

const NOTHING_SAID: { purpose: string; note: string; standing: KeptAs } = {
  purpose: '',
  note: '',
  standing: 'tried',
}

function KeepForm({ page, patch }: { page: TrialPageData; patch: string }) {
  const { inventory, me } = useShop()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [form, setForm, forgetForm] = useTabState(
    `keep.${page.burn?.id}.${patch}.${shownStep(page)}`,
    NOTHING_SAID,
  )
  const { purpose, note, standing } = form
  const set = (part: Partial<typeof NOTHING_SAID>) => setForm((before) => ({ ...before, ...part }))
  const keep = useMutation({
    mutationFn: () =>
      answer(
        api.POST('/api/recipes', {
          body: { burn: page.burn?.id ?? 0, patch, step: shownStep(page), standing, purpose, note },
        }),
      ),
    onSuccess: async () => {
      forgetForm()
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
    },
  })
  const kept = page.recipes.find(
    (recipe) =>
      recipe.patch === patch &&
      recipe.burn_id === page.burn?.id &&
      recipe.standing !== 'retired' &&
      isOfShown(page, recipe.read_as),
  )
  return (
    <>
      {kept && (
        <Text mb="2" color="moss" fontWeight="600" role="status">
          {patch} is in the book:{' '}
          <Link asChild color="moss" textDecoration="underline">
            <RouterLink to={`/book/${kept.id}`}>open the recipe</RouterLink>
          </Link>
        </Text>
      )}
      <Grid templateColumns="1fr" gap="2">
        <TextField
          label="For what (may be empty)"
          value={purpose}
          placeholder="dark, merely tan, fast draft …"
          onChange={(event) => set({ purpose: event.currentTarget.value })}
        />
        <TextField
          label="Note"
          value={note}
          placeholder="what the next one should know"
          onChange={(event) => set({ note: event.currentTarget.value })}
        />
      </Grid>
      <Flex mt="3" gap="3" align="center" wrap="wrap">
        {me.may_prove ? (
          <Choice
            label="Standing"
            value={standing}
            onPick={(standing) => set({ standing })}
            options={inventory.kept_as.map((key) => ({ value: key, label: key }))}
          />
        ) : (
          <Text fontSize="14px" color="ink2">
            Kept as tried; a technician can mark it proven.
          </Text>
        )}
        <Button
          look={kept ? 'quiet' : 'ember'}
          size="lg"
          ml="auto"
          loading={keep.isPending}
          onClick={() => keep.mutate()}
        >
          {kept ? 'Keep for another purpose' : 'Keep as recipe'}
        </Button>
      </Flex>
      {keep.error && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {keep.error.message}
        </Text>
      )}
    </>
  )
}
