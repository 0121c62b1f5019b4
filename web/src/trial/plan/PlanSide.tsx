import { Box, Flex, Text } from '@chakra-ui/react'
import { memo, useCallback, useMemo } from 'react'
import type { Head, Plate, Preview, Process, TrialPageData } from '../../api/types'
import { Button } from '../../shared/Button'
import { Card, Section } from '../../shared/Parts'
import { useInMyUnits, useParameter, useProcess, useSettingsOn, useShop } from '../../shared/ShopContext'
import { ProofCard } from '../ProofCard'
import { ActivePatch } from './ActivePatch'
import { BurnOrder } from './BurnOrder'
import { CutOut } from './CutOut'
import { DoseLimits } from './DoseLimits'
import { HeldSettings } from './HeldSettings'
import { KeptArrays } from './KeptArrays'
import { LabelSettings } from './LabelSettings'
import { asList, ownKeys } from './listed'
import { ListOfSettings } from './ListOfSettings'
import { LookOut } from './LookOut'
import { PatchSettings } from './PatchSettings'
import { PieceSettings } from './PieceSettings'
import { SizeSlider } from './SizeSlider'
import { StepLines } from './StepLines'
import { stepsOf } from './steps'
import { StepWay } from './StepWay'
import { Conflict, Totals } from './Totals'
import type { DesignHandle } from './useDesign'
import { WhatElseChanged } from './WhatElseChanged'
import { WhatVaries } from './WhatVaries'

// What decides how a cut comes out beside speed, power and passes; more is shown where it is set.
const CUT_SHOWN = new Set(['speed_mm_s', 'power_pct', 'passes'])
const CUT_ALSO = new Set(['air_level', 'air_kpa', 'frequency_khz', 'pulse_width_ns'])

interface PlanSideProps {
  page: TrialPageData
  /** The design as an editor of the chosen step has it, and all of it. */
  handle: DesignHandle
  whole: DesignHandle
  /** What is done in the chosen step, and what the trial set out to do. */
  process: Process
  own: Process
  /** The step that is edited, from 0, and the one that is shown; null: all of them. */
  number: number
  chosen: number | null
  onChoose: (step: number | null) => void
  good: Preview
  /** The plate with all its steps: whatever may go wrong in any of them is said. */
  planned: Plate
  head: Head
  active: string | null
  onToggle: (id: string) => void
  playing: boolean
  onPlay: () => void
}

/** What stands beside the plate while it is planned: warnings, what varies, patches, piece and totals. */
export const PlanSide = memo(function PlanSide(props: PlanSideProps) {
  const { page, handle, whole, process, own, number, chosen, onChoose, good, head, active } = props
  const { planned, onToggle, playing, onPlay } = props
  const { inventory, me } = useShop()
  const parameter = useParameter()
  const { design, errors, change, settle } = handle
  const steps = stepsOf(whole.design)
  const inMyUnits = useInMyUnits()
  const choices = useSettingsOn(head.id, process.key)
  const shelf = useMemo(
    () => inventory.pieces.filter((piece) => piece.material_id === page.material_id && !piece.retired),
    [inventory.pieces, page.material_id],
  )
  const { brought } = good.plate
  const { height_mm } = good.plate.trial.patch
  const plannedFigure = useMemo(() => ({ brought, height_mm }), [brought, height_mm])
  const labelExtras = useMemo(
    () => choices.filter((choice) => choice.key === 'frequency_khz' || choice.key === 'pulse_width_ns'),
    [choices],
  )
  const cut = useProcess('cut')
  const ofCuts = useSettingsOn(head.id, cut.key)
  const cutExtras = useMemo(
    () =>
      ofCuts.filter(
        ({ key }) => !CUT_SHOWN.has(key) && (CUT_ALSO.has(key) || key in (design.cut_settings ?? {})),
      ),
    [ofCuts, design.cut_settings],
  )
  const leaveOut = useCallback(
    (ids: string[]) => change((now) => ({ ...now, off: [...new Set([...now.off, ...ids])] })),
    [change],
  )
  const answerFor = useCallback(() => {
    const { hazards } = good.plate.trial.material
    const accepted = hazards.filter((hazard) => hazard === 'chlorine' || hazard === 'cyanide')
    change((now) => ({ ...now, accepted_hazards: accepted }))
  }, [change, good.plate.trial])
  const varied = design.listed ? ownKeys(design) : design.axes.map((axis) => axis.parameter)
  const editing = { choices, head, errors, change, settle }
  const partsFall = own.passes_through || steps.some(({ process: key }) => key === cut.key)
  const meantFor = inventory.materials.find((one) => one.id === page.material_id)?.processes ?? []
  return (
    <Flex direction="column" gap="2.5">
      {/* First for who goes from field to field, last for the eye. */}
      <Box order="1" position={{ lg: 'sticky' }} bottom="0" zIndex="1">
        <Totals page={page} good={good} handle={whole} />
      </Box>
      <Conflict number={page.number} handle={whole} />
      <ProofCard page={page} />
      <LookOut plate={planned} onLeaveOut={leaveOut} onAnswerFor={me.may_prove ? answerFor : undefined} />
      {active && (
        <ActivePatch
          patch={good.plate.patches.find((patch) => patch.id === active)}
          overrides={design.overrides}
          varied={design.listed ? [] : choices.filter((choice) => varied.includes(choice.key))}
          unit={process.dose_unit}
          errors={errors}
          change={change}
          settle={settle}
          onToggle={onToggle}
        />
      )}
      <Card p="3">
        <Section title="What varies">
          <WhatVaries plate={good.plate} />
          <WhatElseChanged against={good.against} />
          <Text color="ink2" fontSize="14px" mt="1">
            {inMyUnits(page.reason)}
          </Text>
          <StepLines
            design={whole.design}
            process={own}
            meantFor={meantFor}
            chosen={chosen}
            errors={whole.errors}
            change={whole.change}
            onChoose={onChoose}
          />
        </Section>
        <Box mt="2">
          {design.listed ? (
            <ListOfSettings
              design={design}
              names={good.plate.patches.map((patch) => patch.id).join(' ')}
              active={active}
              choices={choices}
              errors={errors}
              change={change}
              settle={settle}
            />
          ) : (
            steps.length < 2 && (
              <Button look="link" size="sm" onClick={() => change((now) => asList(now, good.plate.patches))}>
                Write it as a list, patch by patch
              </Button>
            )
          )}
        </Box>
        <Box mt="2">
          <HeldSettings
            hold={design.hold}
            varied={varied.join(' ')}
            planned={JSON.stringify(good.plate.trial.hold ?? {})}
            {...editing}
          />
        </Box>
        <StepWay
          step={steps[number]}
          number={number}
          count={steps.length}
          process={process}
          spacing={design.hold.line_spacing_mm}
          errors={whole.errors}
          change={whole.change}
          settle={settle}
        />
      </Card>
      <Card p="3">
        <Section title="Patch and labels">
          <PatchSettings
            patch={design.patch}
            plan={plannedFigure}
            filled={process.fills}
            kerf={partsFall ? page.known_kerf_mm : null}
            blocks={design.axes.some((axis) => axis.along.startsWith('block'))}
            errors={errors}
            change={change}
            settle={settle}
          />
          <SizeSlider
            patch={design.patch}
            planned={good.plate.trial.patch}
            seconds={Math.round(good.plate.seconds)}
            footprint={`${Math.ceil(good.plate.plate.width_mm)} x ${Math.ceil(good.plate.plate.height_mm)}`}
            change={change}
            settle={settle}
          />
          <Box mt="2">
            <LabelSettings
              labels={design.labels}
              seconds={Math.round(good.plate.label_seconds)}
              share={Math.round((100 * good.plate.label_seconds) / Math.max(good.plate.seconds, 1e-9))}
              partsFall={partsFall}
              more={labelExtras}
              parameter={parameter}
              errors={errors}
              change={change}
              settle={settle}
            />
          </Box>
          <BurnOrder
            order={design.order}
            repeats={design.listed ? undefined : (design.repeats ?? null)}
            cooling={good.plate.cooling}
            travel={good.plate.travel_seconds}
            playing={playing}
            onPlay={onPlay}
            change={change}
          />
          <PieceSettings
            piece={design.piece}
            place={design.place}
            fit={design.fit}
            zero={design.zero}
            galvo={good.plate.trial.machine.motion === 'galvo'}
            pieceId={design.piece_id}
            pieceFace={design.piece_face}
            shelf={shelf}
            plate={design.piece || design.piece_id ? good.plate : null}
            size={good.plate.plate}
            errors={errors}
            change={change}
            settle={settle}
          />
          <CutOut
            on={design.cut_out ?? false}
            hole={design.hang_hole_mm}
            settings={design.cut_settings}
            more={cutExtras}
            proven={page.proven_cut}
            head={head}
            parameter={parameter}
            errors={errors}
            change={change}
            settle={settle}
          />
          <DoseLimits
            floor={process.fills ? design.dose_floor_j_mm2 : design.dose_floor_j_mm}
            ceiling={process.fills ? design.dose_ceiling_j_mm2 : design.dose_ceiling_j_mm}
            process={process}
            errors={errors}
            change={change}
            settle={settle}
          />
          <KeptArrays
            listed={Boolean(design.listed) || steps.length > 0}
            trial={page.id}
            process={page.process}
            designNow={whole.designNow}
            change={whole.change}
          />
        </Section>
      </Card>
    </Flex>
  )
})
