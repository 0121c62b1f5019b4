import { Box, Grid } from '@chakra-ui/react'
import { memo, useCallback, useMemo } from 'react'
import type { KeyboardEvent, ReactNode } from 'react'
import type { Patch, Preview, Process } from '../../api/types'
import { DoseRail, doseOf } from '../../plate/DoseRail'
import { ARROWS, neighbour } from '../../plate/geometry'
import { Crossed, Danger, Figure } from '../../plate/PatchMarks'
import { Plate } from '../../plate/Plate'
import { doseColour, doseRange, onDose } from '../../plate/scales'
import { PlateBox } from '../PlateBox'

interface PlannedPlateProps {
  good: Preview
  process: Process
  title: string
  start: number | null
  active: string | null
  onActive: (id: string) => void
  onToggle: (id: string) => void
  onUndo: () => void
}

/** The plate as planned, tinted by dose. */
export const PlannedPlate = memo(function PlannedPlate(props: PlannedPlateProps) {
  const { good, process, title, active, onActive, onToggle, onUndo } = props
  const { patches } = good.plate
  const range = useMemo(() => doseRange(patches.map(doseOf)), [patches])
  const onKeyDown = (event: KeyboardEvent) => {
    const step = ARROWS[event.key]
    if (step) onActive(neighbour(patches, active ?? '', step))
    else if (event.key === 'u' || (event.key === 'z' && (event.ctrlKey || event.metaKey))) onUndo()
    else if ((event.key === 'Delete' || event.key === 'x') && active) onToggle(active)
    else return
    event.preventDefault()
  }
  return (
    <PlateBox plate={good.plate} around={360}>
      <Plate
        plate={good.plate}
        texts={good.texts}
        label={`Plan of ${title}, ${patches.length} patches`}
        fill={(patch) => doseColour(doseOf(patch), range)}
        name={(patch) => `${patch.id}, ${doseOf(patch).toPrecision(3)} ${process.dose_unit}`}
        active={active}
        onPick={onActive}
        onKeyDown={onKeyDown}
        over={(patch) => <PlannedPatch patch={patch} colour={onDose(doseOf(patch), range)} />}
      />
    </PlateBox>
  )
})

type PlannedRailProps = Pick<PlannedPlateProps, 'good' | 'process' | 'start' | 'active' | 'onActive'>

/** The doses of the plan on the rail, with the starting dose where there is one. */
export const PlannedRail = memo(function PlannedRail(props: PlannedRailProps) {
  const { good, process, start, active, onActive } = props
  const { patches } = good.plate
  const range = useMemo(() => doseRange(patches.map(doseOf)), [patches])
  const fill = useCallback((patch: Patch) => doseColour(doseOf(patch), range), [range])
  return (
    <DoseRail
      patches={patches}
      unit={process.dose_unit}
      fill={fill}
      active={active}
      onPick={onActive}
      marked={start ? { dose: start, word: 'starting dose' } : null}
      label={`Doses from ${range.low.toPrecision(3)} to ${range.high.toPrecision(3)} ${process.dose_unit}`}
    />
  )
})

/** The two edges and the plate between them. */
export function Edged({ left, below, children }: { left: ReactNode; below: ReactNode; children: ReactNode }) {
  return (
    <Grid templateColumns="124px minmax(0, max-content)" columnGap="2" rowGap="2" justifyContent="center">
      <Box py="2">{left}</Box>
      {children}
      <Box />
      {below}
    </Grid>
  )
}

function PlannedPatch({ patch, colour }: { patch: Patch; colour: string }) {
  const box = { width: patch.width_mm, height: patch.height_mm }
  if (!patch.burn) return <Crossed {...box} />
  const kinds = new Set(patch.warnings.map((warning) => warning.kind))
  const grave = patch.warnings.some((warning) => warning.level === 'refusal')
  return (
    <>
      {(kinds.has('hot_end') || grave) && <Danger {...box} />}
      {kinds.has('firing_floor') && <Crossed {...box} />}
      <Figure {...box} colour={colour} text={Number(doseOf(patch).toPrecision(3)).toString()} />
    </>
  )
}
