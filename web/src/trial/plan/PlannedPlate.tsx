import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { memo, useCallback, useEffect, useMemo, useRef } from 'react'
import type { KeyboardEvent, ReactNode } from 'react'
import type { Figure, Patch, Plate as PlateData, Preview, Process } from '../../api/types'
import { DoseRail, doseOf, plannedTicks } from '../../plate/DoseRail'
import type { Tick } from '../../plate/DoseRail'
import { ARROWS, neighbour } from '../../plate/geometry'
import { partOf, patchesOfStep, stepCount } from '../../plate/ofStep'
import { OtherSteps } from '../../plate/OtherSteps'
import { ByHand, Crossed, Danger, HotCorners, Word } from '../../plate/PatchMarks'
import { useFigures } from '../../plate/useFigures'
import { Plate } from '../../plate/Plate'
import { doseColour, doseRange, onDose } from '../../plate/scales'
import { palette } from '../../theme/palette'
import { PlateBox } from '../PlateBox'
import { patchesOf } from '../../shared/words'

interface PlannedPlateProps {
  good: Preview
  process: Process
  title: string
  start: number | null
  active: string | null
  onActive: (id: string) => void
  onToggle: (id: string) => void
  onUndo: () => void
  /** Whether all steps are shown at a time, each with its figure. */
  all?: boolean
  /** How many patches have burned while the order is played. */
  played?: number | null
}

/** The plate as planned, tinted by dose. */
export const PlannedPlate = memo(function PlannedPlate(props: PlannedPlateProps) {
  const { good, process, title, active, onActive, onToggle, onUndo, all = false, played = null } = props
  const { judged } = good.plate
  const steps = stepCount(good.plate)
  const burned = useMemo(
    () =>
      played === null
        ? null
        : new Set(patchesOfStep(good.plate.order.slice(0, played), judged, steps).map(({ patch }) => patch)),
    [good.plate.order, played, judged, steps],
  )
  const { patches } = good.plate
  const figures = useFigures(good.plate)
  const longest = useMemo(() => Math.max(...patches.map((patch) => doseWord(patch).length)), [patches])
  const focus = useRef<SVGSVGElement>(null)
  useEffect(() => focus.current?.focus({ preventScroll: true }), [])
  const range = useMemo(() => doseRange(patches.map(doseOf)), [patches])
  const onKeyDown = (event: KeyboardEvent) => {
    const step = ARROWS[event.key]
    if (step) onActive(neighbour(patches, active ?? '', step))
    else if (event.key === 'u') onUndo()
    else if ((event.key === 'Delete' || event.key === 'x') && active) onToggle(active)
    else return
    event.preventDefault()
  }
  return (
    <PlateBox plate={good.plate} around={360}>
      <Plate
        ref={focus}
        plate={good.plate}
        texts={good.texts}
        titled={false}
        label={`Plan of ${title}, ${patchesOf(patches.length)}`}
        fill={(patch) =>
          all || (burned && !burned.has(patch.id)) ? palette.line : doseColour(doseOf(patch), range)
        }
        above={played !== null && <Way plate={good.plate} done={played} />}
        name={(patch) => `${patch.id}, ${doseOf(patch).toPrecision(3)} ${process.dose_unit}`}
        active={active}
        onPick={onActive}
        onKeyDown={onKeyDown}
        over={(patch) => (
          <>
            {steps > 1 && <OtherSteps plate={good.plate} patch={patch} all={all} />}
            <PlannedPatch
              patch={patch}
              worded={!all}
              haloed={steps > 1}
              figure={figures(patch)}
              longest={longest}
              ground={burned && !burned.has(patch.id) ? palette.line : doseColour(doseOf(patch), range)}
              colour={burned && !burned.has(patch.id) ? palette.ink2 : onDose(doseOf(patch), range)}
            />
          </>
        )}
      />
    </PlateBox>
  )
})

type PlannedRailProps = Pick<PlannedPlateProps, 'good' | 'process' | 'start' | 'active' | 'onActive'> & {
  /** Which step it is of, where there are several. */
  name?: string
}

/** The doses of the plan on the rail, with the starting dose where there is one. */
export const PlannedRail = memo(function PlannedRail(props: PlannedRailProps) {
  const { good, process, start, active, onActive, name } = props
  const { patches } = good.plate
  const range = useMemo(() => doseRange(patches.map(doseOf)), [patches])
  const ticks = useMemo(() => plannedTicks(patches), [patches])
  const fill = useCallback((tick: Tick) => doseColour(tick.dose, range), [range])
  return (
    <DoseRail
      ticks={ticks}
      unit={process.dose_unit}
      name={name}
      fill={fill}
      active={active}
      onPick={onActive}
      marked={start ? { dose: start, word: 'starting dose' } : null}
      label={`Doses from ${range.low.toPrecision(3)} to ${range.high.toPrecision(3)} ${process.dose_unit}`}
    />
  )
})

interface EdgedProps {
  above: ReactNode
  left: ReactNode
  right: ReactNode
  below: ReactNode
  children: ReactNode
}

/** The plate between its edges: the settings within a block left and below, those of the blocks above and right. */
export function Edged({ above, left, right, below, children }: EdgedProps) {
  return (
    <Grid
      templateColumns={{ base: '92px minmax(0, 1fr) auto', md: '124px minmax(0, max-content) auto' }}
      columnGap="2"
      rowGap="2"
      justifyContent="center"
    >
      <Box />
      <Box minW="0">{above}</Box>
      <Box />
      <Box py="2">{left}</Box>
      {children}
      <Box py="2" maxW="124px">
        {right}
      </Box>
      <Box />
      <Box minW="0" gridColumn="span 2">
        {below}
      </Box>
    </Grid>
  )
}

/** The way from patch to patch as far as it has been played. */
function Way({ plate, done }: { plate: PlateData; done: number }) {
  const at = new Map(plate.patches.map((patch) => [patch.id, patch]))
  const height = plate.plate.height_mm
  const points = plate.order
    .slice(0, done)
    .map((name) => at.get(partOf(name).patch))
    .filter((patch) => patch !== undefined)
    .map((patch) => [patch.x_mm + patch.width_mm / 2, height - patch.y_mm - patch.height_mm / 2] as const)
  const last = points.at(-1)
  const unit = Math.max(plate.plate.width_mm, height) * 0.006
  return (
    <g pointerEvents="none">
      <polyline
        points={points.map((point) => point.join(',')).join(' ')}
        fill="none"
        stroke={palette.steel}
        strokeWidth={unit * 0.7}
        strokeLinejoin="round"
        opacity={0.75}
      />
      {last && (
        <circle
          cx={last[0]}
          cy={last[1]}
          r={unit * 2.4}
          fill={palette.ember}
          stroke={palette.card}
          strokeWidth={unit * 0.7}
        />
      )}
    </g>
  )
}

interface PlannedPatchProps {
  patch: Patch
  colour: string
  ground: string
  figure: Figure
  longest: number
  /** Whether its dose stands on it, and whether something runs behind that. */
  worded: boolean
  haloed: boolean
}

const doseWord = (patch: Patch) => Number(doseOf(patch).toPrecision(3)).toString()

/** What the plan draws over a patch, and why. */
function marksOf(patch: Patch) {
  const kinds = new Set(patch.warnings.map((warning) => warning.kind))
  const grave = patch.warnings.some((warning) => warning.level === 'refusal')
  return {
    danger: kinds.has('hot_end') || kinds.has('fire') || grave,
    weak: kinds.has('firing_floor'),
    corners: kinds.has('corner_heat'),
    byHand: patch.set_by_hand.length > 0,
    out: !patch.burn,
  }
}

const MEANS: Record<keyof ReturnType<typeof marksOf>, string> = {
  danger: '▲ hatched: look out',
  weak: '✕ too weak to fire',
  corners: '● corners get more than the straights',
  byHand: '◣ set by hand',
  out: '✕ dashed: left out',
}

/** What the marks on the patches mean, of those that are there. */
export const PlanLegend = memo(function PlanLegend({ patches }: { patches: Patch[] }) {
  const there = new Set<string>()
  for (const patch of patches) {
    const marks = patch.burn ? marksOf(patch) : { out: true }
    for (const [mark, on] of Object.entries(marks)) if (on) there.add(mark)
  }
  if (there.size === 0) return null
  return (
    <Flex gap="4" wrap="wrap" mt="1" fontSize="13px" color="ink2" justify="center" aria-hidden="true">
      {Object.entries(MEANS)
        .filter(([mark]) => there.has(mark))
        .map(([mark, means]) => (
          <Text key={mark}>{means}</Text>
        ))}
    </Flex>
  )
})

function PlannedPatch(props: PlannedPatchProps) {
  const { patch, colour, ground, figure, longest, worded, haloed } = props
  const box = { width: patch.width_mm, height: patch.height_mm }
  if (!patch.burn) return <Crossed {...box} />
  const marks = marksOf(patch)
  return (
    <>
      {marks.danger && <Danger {...box} />}
      {marks.weak && <Crossed {...box} />}
      {marks.corners && worded && <HotCorners {...box} figure={figure} />}
      {marks.byHand && <ByHand {...box} />}
      {worded && (
        <Word
          figure={figure}
          height={box.height}
          colour={colour}
          text={doseWord(patch)}
          longest={longest}
          ground={marks.danger || marks.weak || haloed || figure.holes ? ground : undefined}
        />
      )}
    </>
  )
}
