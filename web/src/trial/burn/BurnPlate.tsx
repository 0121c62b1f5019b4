import { Box, Flex, Text } from '@chakra-ui/react'
import { useMemo } from 'react'
import type { KeyboardEvent } from 'react'
import type { Figure, LiveRun, Patch, Plate as PlateData, PlateText } from '../../api/types'
import { DoseRail, doseOf, plannedTicks } from '../../plate/DoseRail'
import type { Tick } from '../../plate/DoseRail'
import { ARROWS, neighbour } from '../../plate/geometry'
import { partOf } from '../../plate/ofStep'
import { Crossed, Word } from '../../plate/PatchMarks'
import { useFigures } from '../../plate/useFigures'
import { Plate } from '../../plate/Plate'
import { doseColour, doseRange, onDose } from '../../plate/scales'
import { SvgText } from '../../plate/SvgText'
import { useProcess } from '../../shared/ShopContext'
import { palette } from '../../theme/palette'
import { PlateBox } from '../PlateBox'
import type { PatchState } from './liveRun'
import { useBurn } from './useBurn'

const WORDS: Record<PatchState, string> = {
  waiting: 'waits',
  burning: 'burns now',
  begun: 'some of its steps burned',
  done: 'burned',
  uncertain: 'nobody knows whether it was burned whole',
  bare: 'not burned',
}

interface BurnPlateProps {
  plate: PlateData
  texts: PlateText[]
  states: Map<string, PatchState>
  live: LiveRun | null
  active: string | null
  chosen: ReadonlySet<string>
  onPick: (id: string) => void
  onWalk: (id: string) => void
}

/** The plate as it fills up: what waits shows its turn, what burned its dose. */
export function BurnPlate(props: BurnPlateProps) {
  const { plate, texts, states, live, active, chosen, onPick, onWalk } = props
  const { page } = useBurn()
  const process = useProcess(page.process)
  const range = doseRange(plate.patches.map(doseOf))
  // Where a patch has several steps its turn is that of the first.
  const turn = new Map(
    [...plate.order].reverse().map((name, i) => [partOf(name).patch, plate.order.length - i]),
  )
  const figures = useFigures(plate)
  const ticks = useMemo(() => plannedTicks(plate.patches), [plate.patches])
  const stateOf = ({ id }: { id: string }) => states.get(id) ?? 'waiting'
  const fillBy = (tick: Tick) =>
    stateOf(tick) === 'done' || stateOf(tick) === 'uncertain'
      ? doseColour(tick.dose, range)
      : stateOf(tick) === 'begun'
        ? palette.line
        : palette.plate
  const fill = (patch: Patch) => fillBy({ id: patch.id, dose: doseOf(patch) })
  // Before anything burns the rail shows what is planned.
  const reached = [...states.values()].some((state) => state !== 'waiting')
  const fillTick = (tick: Tick) => (reached || live ? fillBy(tick) : doseColour(tick.dose, range))
  const [x, y] = live && live.state !== 'connecting' ? (live.head ?? []) : []
  const onKeyDown = (event: KeyboardEvent) => {
    const step = ARROWS[event.key]
    if (!step) return
    event.preventDefault()
    onWalk(neighbour(plate.patches, active ?? '', step))
  }
  return (
    <Box minW="0">
      <PlateBox plate={plate} around={390}>
        <Plate
          plate={plate}
          texts={texts}
          label={`Plate ${page.code} while it is burned`}
          fill={fill}
          name={(patch) => `${patch.id}, turn ${turn.get(patch.id)}, ${WORDS[stateOf(patch)]}`}
          active={active}
          onPick={onPick}
          onKeyDown={onKeyDown}
          above={x !== undefined && y !== undefined && <Head plate={plate} x={x} y={y} />}
          over={(patch) => (
            <PatchNow
              patch={patch}
              figure={figures(patch)}
              state={stateOf(patch)}
              turn={String(turn.get(patch.id) ?? '')}
              longest={String(plate.order.length).length}
              colour={onDose(doseOf(patch), range)}
              chosen={chosen.has(patch.id)}
            />
          )}
        />
      </PlateBox>
      {/* Nothing burns while the outline is shown, and what moves it has to be in sight. */}
      {live?.how !== 'outline' && (
        <>
          <Key begun={[...states.values()].includes('begun')} />
          <Box mt="2">
            <DoseRail
              ticks={ticks}
              unit={process.dose_unit}
              fill={fillTick}
              active={active}
              onPick={onWalk}
              label="Doses of all patches"
            />
          </Box>
        </>
      )}
    </Box>
  )
}

/** What the drawings on the patches mean. */
function Key({ begun }: { begun: boolean }) {
  return (
    <Flex gap="4" wrap="wrap" mt="2" fontSize="13px" color="ink2" justify="center" aria-hidden="true">
      <Text>dashed, with its turn: waits</Text>
      <Text>✓ burned</Text>
      {begun && <Text>grey: some of its steps</Text>}
      <Text>? uncertain</Text>
      <Text>✕ stayed bare</Text>
    </Flex>
  )
}

interface PatchNowProps {
  patch: Patch
  figure: Figure
  state: PatchState
  turn: string
  longest: number
  colour: string
  chosen: boolean
}

function PatchNow({ patch, figure, state, turn, longest, colour, chosen }: PatchNowProps) {
  const { width_mm: width, height_mm: height } = patch
  const least = Math.min(width, height)
  if (!patch.burn) return <Crossed width={width} height={height} />
  return (
    <g pointerEvents="none">
      {(state === 'waiting' || state === 'bare') && (
        <rect
          width={width}
          height={height}
          rx={least * 0.05}
          fill="none"
          stroke={palette.control}
          strokeWidth={least * 0.03}
          strokeDasharray={`${least * 0.1} ${least * 0.08}`}
        />
      )}
      {state === 'bare' && <Crossed width={width} height={height} />}
      {state === 'waiting' && (
        <Word figure={figure} height={height} colour={palette.ink2} text={turn} longest={longest} />
      )}
      {state === 'burning' && (
        <rect
          x={-least * 0.06}
          y={-least * 0.06}
          width={width + least * 0.12}
          height={height + least * 0.12}
          rx={least * 0.1}
          fill="none"
          stroke={palette.ember}
          strokeWidth={least * 0.09}
        />
      )}
      {state === 'done' && (
        <path
          d={`M${width * 0.66},${height * 0.2}l${least * 0.08},${least * 0.09}l${least * 0.15},${-least * 0.16}`}
          fill="none"
          stroke={colour}
          strokeWidth={least * 0.05}
          strokeLinecap="round"
          strokeLinejoin="round"
        />
      )}
      {patch.mixed && state === 'done' && (
        <SvgText x={width / 2} y={height * 0.62} size={least * 0.24} weight={600} colour={colour}>
          mixed
        </SvgText>
      )}
      {state === 'uncertain' && (
        <SvgText x={width / 2} y={height / 2 + least * 0.2} size={least * 0.56} weight={700} colour={colour}>
          ?
        </SvgText>
      )}
      {chosen && (
        <rect
          x={-least * 0.1}
          y={-least * 0.1}
          width={width + least * 0.2}
          height={height + least * 0.2}
          rx={least * 0.12}
          fill="none"
          stroke={palette.steel}
          strokeWidth={least * 0.07}
        />
      )}
    </g>
  )
}

/** Where the head is. */
function Head({ plate, x, y }: { plate: PlateData; x: number; y: number }) {
  const { width_mm: width, height_mm: height } = plate.plate
  const r = Math.max(width, height) * 0.011
  if (x < -width * 0.1 || y < -height * 0.1 || x > width * 1.1 || y > height * 1.1) return null
  return (
    <circle
      cx={x}
      cy={height - y}
      r={r}
      fill={palette.ember}
      stroke={palette.card}
      strokeWidth={r * 0.35}
      pointerEvents="none"
    />
  )
}
