import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useCallback, useMemo, useState } from 'react'
import type { Head, Preview, TrialPageData } from '../../api/types'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Failure, Section } from '../../shared/Parts'
import { useParameter, useProcess, useShop } from '../../shared/ShopContext'
import { ActivePatch } from './ActivePatch'
import { AddAxis } from './AddAxis'
import { AxisEdge } from './AxisEdge'
import { BurnOrder } from './BurnOrder'
import { CutOut } from './CutOut'
import type { Along } from './design'
import { fittingParameters, mayWrap, nextAlong, plannedValues, toggleOff } from './design'
import { DoseLimits } from './DoseLimits'
import { HeldSettings } from './HeldSettings'
import { KeptArrays } from './KeptArrays'
import { LabelSettings } from './LabelSettings'
import { LookOut } from './LookOut'
import { PatchSettings } from './PatchSettings'
import { PieceSettings } from './PieceSettings'
import { Edged, PlannedPlate, PlannedRail } from './PlannedPlate'
import { Conflict, Totals } from './Totals'
import { SizeSlider } from './SizeSlider'
import { useDesign } from './useDesign'
import type { DesignHandle } from './useDesign'
import { useOrderPlay } from './useOrderPlay'
import { WhatElseChanged } from './WhatElseChanged'
import { WhatVaries } from './WhatVaries'
import './plan.css'

/** Plan: the axes are edited on the plate's edges, and the plate follows every keystroke. */
export function PlanStage({ page }: { page: TrialPageData }) {
  const { inventory, units } = useShop()
  const handle = useDesign(page, units)
  const head = inventory.heads.find((one) => one.id === page.head_id)
  if (head && handle.good) return <Planning page={page} handle={handle} good={handle.good} head={head} />
  const sentences = [...handle.errors.values()].join(' ')
  if (handle.failure || sentences) return <Failure error={handle.failure ?? new Error(sentences)} />
  return null
}

interface PlanningProps {
  page: TrialPageData
  handle: DesignHandle
  good: Preview
  head: Head
}

function Planning({ page, handle, good, head }: PlanningProps) {
  const { inventory, me } = useShop()
  const parameter = useParameter()
  const process = useProcess(page.process)
  const [active, setActive] = useState<string | null>(null)
  const { design, errors, change, settle, undo } = handle
  const choices = useMemo(
    () => fittingParameters(inventory.parameters, process, head),
    [inventory.parameters, process, head],
  )
  const played = useOrderPlay(good.plate.order.length)
  const shelf = useMemo(
    () => inventory.pieces.filter((piece) => piece.material_id === page.material_id && !piece.retired),
    [inventory.pieces, page.material_id],
  )
  const labelExtras = useMemo(
    () => choices.filter((choice) => choice.key === 'frequency_khz' || choice.key === 'pulse_width_ns'),
    [choices],
  )
  const toggle = useCallback((id: string) => change((now) => toggleOff(now, id)), [change])
  const leaveOut = useCallback(
    (ids: string[]) => change((now) => ({ ...now, off: [...new Set([...now.off, ...ids])] })),
    [change],
  )
  const answerFor = useCallback(() => {
    const { hazards } = good.plate.trial.material as { hazards: string[] }
    const accepted = hazards.filter((hazard) => hazard === 'chlorine' || hazard === 'cyanide')
    change((now) => ({ ...now, accepted_hazards: accepted }))
  }, [change, good.plate.trial])
  const start = design.starting_dose_j_mm ?? design.starting_dose_j_mm2 ?? null
  const editing = { choices, head, errors, change, settle }
  const varied = design.axes.map((axis) => axis.parameter)
  const free = choices.filter((choice) => !varied.includes(choice.key))
  const next = nextAlong(design)
  const edge = (along: Along) => {
    const index = design.axes.findIndex((axis) => axis.along === along)
    const axis = design.axes[index]
    if (!axis)
      return along === next ? <AddAxis along={along} free={free} head={head} change={change} /> : null
    const planned = plannedValues(good.plate.patches, axis.parameter, along, Boolean(axis.wrap)).join(' ')
    const inner = design.axes.filter((other) => other.along === 'x' || other.along === 'y')
    return (
      <AxisEdge
        along={along}
        axis={axis}
        index={index}
        planned={planned}
        ladder={mayWrap(design, along)}
        removable={along.startsWith('block') || inner.length > 1}
        {...editing}
      />
    )
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0" position={{ lg: 'sticky' }} top="2">
        <Edged
          above={
            <>
              {edge('block_x')}
              {next === 'block_y' && edge('block_y')}
            </>
          }
          left={edge('y')}
          right={next !== 'block_y' && edge('block_y')}
          below={edge('x')}
        >
          <PlannedPlate
            good={good}
            process={process}
            title={page.material}
            start={start}
            active={active}
            onActive={setActive}
            onToggle={toggle}
            onUndo={undo}
            played={played.done}
          />
        </Edged>
        <Box mt="3">
          <PlannedRail good={good} process={process} start={start} active={active} onActive={setActive} />
        </Box>
      </Box>
      <Flex direction="column" gap="2.5">
        <Conflict number={page.number} handle={handle} />
        <LookOut
          plate={good.plate}
          onLeaveOut={leaveOut}
          onAnswerFor={me.may_prove ? answerFor : undefined}
        />
        {active && (
          <ActivePatch
            patch={good.plate.patches.find((patch) => patch.id === active)}
            overrides={design.overrides}
            varied={choices.filter((choice) => varied.includes(choice.key))}
            unit={process.dose_unit}
            errors={errors}
            change={change}
            settle={settle}
            onToggle={toggle}
          />
        )}
        <Card p="3">
          <Section title="What varies">
            <WhatVaries plate={good.plate} />
            <WhatElseChanged against={good.against} />
            <Text color="ink2" fontSize="14px" mt="1">
              {page.reason}
            </Text>
          </Section>
          <Box mt="2">
            <HeldSettings
              hold={design.hold}
              varied={varied.join(' ')}
              planned={JSON.stringify(good.plate.trial.hold ?? {})}
              {...editing}
            />
          </Box>
        </Card>
        <Card p="3">
          <Section title="Patch and labels">
            <PatchSettings
              patch={design.patch}
              hatched={process.dose_key === 'dose_j_mm2'}
              blocks={design.axes.some((axis) => axis.along.startsWith('block'))}
              errors={errors}
              change={change}
              settle={settle}
            />
            <SizeSlider
              patch={design.patch}
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
                more={labelExtras}
                parameter={parameter}
                errors={errors}
                change={change}
                settle={settle}
              />
            </Box>
            <BurnOrder
              order={design.order}
              cooling={good.plate.cooling}
              travel={good.plate.travel_seconds}
              playing={played.done !== null}
              onPlay={played.toggle}
              change={change}
            />
            <PieceSettings
              piece={design.piece}
              place={design.place}
              fit={design.fit}
              pieceId={design.piece_id}
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
              parameter={parameter}
              errors={errors}
              change={change}
              settle={settle}
            />
            <DoseLimits design={design} process={process} errors={errors} change={change} settle={settle} />
            <KeptArrays trial={page.id} process={page.process} designNow={handle.designNow} change={change} />
          </Section>
        </Card>
        <Totals page={page} handle={handle} />
      </Flex>
      <KeysHelp hints={KEYS} />
    </Grid>
  )
}

const KEYS = [
  { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
  { keys: ['x'], does: 'leave a patch out, or take it in again' },
  { keys: ['u'], does: 'undo' },
]
