import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { memo, useCallback, useMemo, useState } from 'react'
import type { Design, Head, Patch, Preview, TrialPageData } from '../../api/types'
import { doseOf } from '../../plate/DoseRail'
import { Button } from '../../shared/Button'
import { Choice } from '../../shared/Fields'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Failure, Section } from '../../shared/Parts'
import { useParameter, useProcess, useShop } from '../../shared/ShopContext'
import { AxisEdge } from './AxisEdge'
import type { Along } from './design'
import { fittingParameters, plannedValues, toggleOff } from './design'
import { HeldSettings } from './HeldSettings'
import { LabelSettings, PatchSize } from './LabelSettings'
import { LookOut } from './LookOut'
import { Edged, PlannedPlate, PlannedRail } from './PlannedPlate'
import { Conflict, Totals } from './Totals'
import { useDesign } from './useDesign'
import type { Change, DesignHandle } from './useDesign'
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
  const { inventory } = useShop()
  const parameter = useParameter()
  const process = useProcess(page.process)
  const [active, setActive] = useState<string | null>(null)
  const { design, errors, change, settle, undo } = handle
  const choices = useMemo(
    () => fittingParameters(inventory.parameters, process, head),
    [inventory.parameters, process, head],
  )
  const toggle = useCallback((id: string) => change((now) => toggleOff(now, id)), [change])
  const leaveOut = useCallback(
    (ids: string[]) => change((now) => ({ ...now, off: [...new Set([...now.off, ...ids])] })),
    [change],
  )
  const start = design.starting_dose_j_mm ?? design.starting_dose_j_mm2 ?? null
  const editing = { choices, head, errors, change, settle }
  const edge = (along: Along) => {
    const index = design.axes.findIndex((axis) => axis.along === along)
    const axis = design.axes[index]
    if (!axis) return null
    const planned = plannedValues(good.plate.patches, axis.parameter, along).join(' ')
    return <AxisEdge along={along} axis={axis} index={index} planned={planned} {...editing} />
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0">
        <Edged left={edge('y')} below={edge('x')}>
          <PlannedPlate
            good={good}
            process={process}
            title={page.material}
            start={start}
            active={active}
            onActive={setActive}
            onToggle={toggle}
            onUndo={undo}
          />
        </Edged>
        <Box mt="3">
          <PlannedRail good={good} process={process} start={start} active={active} onActive={setActive} />
        </Box>
      </Box>
      <Flex direction="column" gap="2.5">
        <Conflict number={page.number} handle={handle} />
        <LookOut plate={good.plate} onLeaveOut={leaveOut} />
        {active && (
          <ActivePatch
            patch={good.plate.patches.find((patch) => patch.id === active)}
            unit={process.dose_unit}
            onToggle={toggle}
          />
        )}
        <Card p="3">
          <Section title="What varies">
            <WhatVaries plate={good.plate} />
            <Text color="ink2" fontSize="14px" mt="1">
              {page.reason}
            </Text>
          </Section>
          <Box mt="2">
            <HeldSettings
              hold={design.hold}
              varied={design.axes.map((axis) => axis.parameter).join(' ')}
              planned={JSON.stringify(good.plate.trial.hold ?? {})}
              {...editing}
            />
          </Box>
        </Card>
        <Card p="3">
          <Section title="Patch and labels">
            <PatchSize patch={design.patch} errors={errors} change={change} settle={settle} />
            <Box mt="2">
              <LabelSettings
                labels={design.labels}
                seconds={good.plate.label_seconds}
                parameter={parameter}
                errors={errors}
                change={change}
                settle={settle}
              />
            </Box>
            <Order order={design.order} change={change} />
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

const Order = memo(function Order({ order, change }: { order: Design['order']; change: Change }) {
  return (
    <Flex mt="2" align="center" gap="3" wrap="wrap">
      <Text fontSize="14px" color="ink2">
        Order
      </Text>
      <Choice
        label="Order"
        value={order}
        onPick={(chosen) => change((design) => ({ ...design, order: chosen as Design['order'] }))}
        options={[
          { value: 'weakest_first', label: 'weakest first' },
          { value: 'rows', label: 'row by row' },
        ]}
      />
    </Flex>
  )
})

interface ActivePatchProps {
  patch: Patch | undefined
  unit: string
  onToggle: (id: string) => void
}

function ActivePatch({ patch, unit, onToggle }: ActivePatchProps) {
  if (!patch) return null
  return (
    <Card p="3">
      <Flex align="baseline" gap="3" wrap="wrap">
        <Text fontWeight="700" fontSize="19px">
          {patch.id}
        </Text>
        <Text>
          {doseOf(patch).toPrecision(3)} {unit} · {patch.seconds.toFixed(1)} s
        </Text>
        <Button look="link" size="sm" ml="auto" onClick={() => onToggle(patch.id)}>
          {patch.burn ? 'Leave it out' : 'Take it in again'}
        </Button>
      </Flex>
      {patch.warnings.map((warning) => (
        <Text key={warning.sentence} fontSize="14px" color="emberOnSoft">
          {warning.sentence}
        </Text>
      ))}
    </Card>
  )
}
