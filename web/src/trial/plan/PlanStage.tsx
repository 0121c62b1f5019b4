import { Box, Grid } from '@chakra-ui/react'
import { useCallback, useMemo, useState } from 'react'
import type { Head, Preview, TrialPageData } from '../../api/types'
import { plateOfStep, stepCount } from '../../plate/ofStep'
import { KeysHelp } from '../../shared/KeysHelp'
import { Failure } from '../../shared/Parts'
import { useProcess, useSettingsOn, useShop } from '../../shared/ShopContext'
import { useUndoKeys } from '../../shared/useUndoKeys'
import { useFrameLater } from '../../shared/useFrameLater'
import { AddAxis } from './AddAxis'
import { AxisEdge } from './AxisEdge'
import type { Along } from './design'
import { mayWrap, nextAlong, plannedValues, toggleOff } from './design'
import { Edged, PlanLegend, PlannedPlate } from './PlannedPlate'
import { Rails } from './Rails'
import { PlanSide } from './PlanSide'
import { stepsOf } from './steps'
import { useChosenStep } from './useChosenStep'
import { useDesign } from './useDesign'
import type { DesignHandle } from './useDesign'
import { useOrderPlay } from './useOrderPlay'
import { useStepEditing } from './useStepEditing'
import './plan.css'

/** Plan: the axes are edited on the plate's edges, and the plate follows every keystroke. */
export function PlanStage({ page }: { page: TrialPageData }) {
  const { inventory, units } = useShop()
  const { handle, good } = useDesign(page, units)
  const head = inventory.heads.find((one) => one.id === page.head_id)
  if (head && good) return <Planning page={page} handle={handle} good={good} head={head} />
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

function Planning({ page, handle: whole, good: planned, head }: PlanningProps) {
  const steps = stepCount(planned.plate)
  const [chosen, choose] = useChosenStep(Math.max(stepsOf(whole.design).length, 1))
  const number = Math.min(chosen ?? planned.plate.judged, steps - 1)
  const handle = useStepEditing(whole, chosen ?? number)
  const good = useByStep(planned, number)
  const process = useProcess(stepsOf(whole.design)[chosen ?? number]?.process ?? page.process)
  const own = useProcess(page.process)
  const [active, setActive] = useState<string | null>(null)
  const { design, errors, change, settle, undo, redo } = handle
  useUndoKeys(undo, redo)
  // The plate follows first; what stands around it is drawn right after.
  const around = useFrameLater(planned)
  const later = useByStep(around, Math.min(number, stepCount(around.plate) - 1))
  const choices = useSettingsOn(head.id, process.key)
  const played = useOrderPlay(good.plate.order.length)
  const toggle = useCallback((id: string) => change((now) => toggleOff(now, id)), [change])
  const start = design.starting_dose_j_mm ?? design.starting_dose_j_mm2 ?? null
  const editing = { choices, errors, change, settle }
  const varied = design.axes.map((axis) => axis.parameter)
  const free = choices.filter((choice) => !varied.includes(choice.key))
  // What is listed one by one has no edges.
  const next = design.listed ? null : nextAlong(design)
  const edge = (along: Along) => {
    const index = design.axes.findIndex((axis) => axis.along === along)
    const axis = design.axes[index]
    if (!axis)
      return along === next ? <AddAxis along={along} free={free} hold={design.hold} change={change} /> : null
    const planned = plannedValues(later.plate.patches, axis.parameter, along, Boolean(axis.wrap)).join(' ')
    const inner = design.axes.filter((other) => other.along === 'x' || other.along === 'y')
    return (
      <AxisEdge
        along={along}
        axis={axis}
        index={index}
        planned={planned}
        ladder={mayWrap(design, along)}
        others={design.axes}
        hold={design.hold}
        removable={along.startsWith('block') || inner.length > 1}
        {...editing}
      />
    )
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0" position={{ lg: 'sticky' }} top="calc(var(--toast-room, 0px) + 8px)">
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
            all={chosen === null}
            title={page.material}
            start={start}
            active={active}
            onActive={setActive}
            onToggle={toggle}
            onUndo={undo}
            played={played.done}
          />
        </Edged>
        <PlanLegend patches={later.plate.patches} />
        <Box mt="3">
          <Rails whole={around} good={later} start={start} active={active} onActive={setActive} />
        </Box>
      </Box>
      <PlanSide
        page={page}
        handle={handle}
        whole={whole}
        process={process}
        own={own}
        number={chosen ?? number}
        chosen={chosen}
        onChoose={choose}
        good={later}
        planned={around.plate}
        head={head}
        active={active}
        onToggle={toggle}
        playing={played.done !== null}
        onPlay={played.toggle}
      />
      <KeysHelp hints={KEYS} />
    </Grid>
  )
}

/** A plan seen by one of its steps. */
const useByStep = (planned: Preview, number: number): Preview =>
  useMemo(() => ({ ...planned, plate: plateOfStep(planned.plate, number) }), [planned, number])

const KEYS = [
  { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
  { keys: ['x'], does: 'leave a patch out, or take it in again' },
  { keys: ['u', 'Ctrl Z'], does: 'undo' },
  { keys: ['Ctrl Y'], does: 'redo' },
]
