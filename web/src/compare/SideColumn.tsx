import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import type { KeyboardEvent } from 'react'
import { Link as RouterLink } from 'react-router'
import { flatUrl } from '../api/photos'
import type { Face, Patch } from '../api/types'
import { PatchCrop } from '../plate/PatchCrop'
import { CornerGlyph, OutcomeGlyph, Word } from '../plate/PatchMarks'
import { useFigures } from '../plate/useFigures'
import { Plate } from '../plate/Plate'
import { onOutcome, outcomeColour } from '../plate/scales'
import { Button } from '../shared/Button'
import { Card } from '../shared/Parts'
import { useOutcomeWords, useParameter, useProcess, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { day, trialName } from '../shared/words'
import { palette } from '../theme/palette'
import { conditionsOf, difference, signed } from './sides'
import type { Difference } from './sides'
import { outcomeOf, valuesOf, photoOf } from './useSides'
import type { Side } from './useSides'

interface SideColumnProps {
  side: Side
  first: Side
  /** Patches of the first plate and their partners on this one. */
  pairs: Map<string, string>
  /** The patch one looks at, by its name on the first plate. */
  active: string
  face: Face
  asDifference: boolean
  /** Settings that the plates hold at different values. */
  held: string[]
  onPick: (id: string) => void
  onRemove?: () => void
  onKeyDown: (event: KeyboardEvent) => void
}

/** One plate of several: what it is, the plate, and the active patch as large as its photo has it. */
export function SideColumn(props: SideColumnProps) {
  const { side, first, pairs, active, face, asDifference, onPick } = props
  const process = useProcess(side.trial.process)
  const photo = photoOf(side, face)
  const back = new Map([...pairs].map(([mine, theirs]) => [theirs, mine]))
  const partner = pairs.get(active) ?? null
  const worded = useOutcomeWords(process, side.trial.material_id)
  const most = worded.words.length - 1
  const outcome = (one: Side, id: string) => outcomeOf(one, process.outcome, id)
  const wordOf = (id: string) => worded.of(valuesOf(side, id)).words[outcome(side, id) ?? -1] ?? 'not read'
  const figuresOf = (one: Side, id: string) => one.measured?.front.find((row) => row.patch === id)
  const differenceOf = (id: string): Difference | null => {
    const mine = back.get(id)
    // Cuts and marks have no scale in common.
    if (!mine || first.trial.process !== side.trial.process) return null
    return difference(
      process,
      [outcome(first, mine), outcome(side, id)],
      [figuresOf(first, mine), figuresOf(side, id)],
    )
  }
  const size = (id: string) => Math.abs(differenceOf(id)?.outcome ?? 0)
  const figures = useFigures(side.plate)
  const over = (patch: Patch) => {
    if (!patch.burn) return null
    const box = { width: patch.width_mm, height: patch.height_mm }
    if (asDifference) {
      const apart = differenceOf(patch.id)?.outcome
      if (apart === null || apart === undefined) return null
      return (
        <Word
          figure={figures(patch)}
          height={box.height}
          text={signed(apart)}
          colour={apart ? onOutcome(size(patch.id), most) : palette.ink2}
        />
      )
    }
    const Glyph = photo ? CornerGlyph : OutcomeGlyph
    return <Glyph {...box} outcome={outcome(side, patch.id)} most={most} />
  }
  const fill = (patch: Patch) => {
    if (asDifference) return size(patch.id) > 0 ? outcomeColour(size(patch.id), most) : palette.card
    return photo ? 'none' : palette.card
  }
  const patch = side.plate.patches.find((one) => one.id === partner)
  return (
    <Card p="3">
      <Head {...props} photo={photo} />
      <Box height={{ base: '280px', lg: '300px' }} mx="auto" style={{ aspectRatio: ratio(side) }} maxW="100%">
        <Plate
          plate={side.plate}
          texts={[]}
          label={`${trialName(side.trial.number)}, ${face}. Arrows walk over all plates.`}
          photo={asDifference || !photo ? undefined : flatUrl(photo)}
          fill={fill}
          name={(one) => `${one.id}, ${wordOf(one.id)}`}
          active={partner}
          onPick={(id) => onPick(back.get(id) ?? id)}
          onKeyDown={props.onKeyDown}
          mirrored={face === 'back'}
          over={over}
        />
      </Box>
      {patch ? (
        <Flex gap="3" mt="3" align="flex-start">
          {photo && (
            <Box width="150px" flexShrink="0">
              <PatchCrop
                href={flatUrl(photo)}
                plate={side.plate.plate}
                box={patch}
                mirrored={face === 'back'}
                label={`${patch.id} of ${trialName(side.trial.number)}`}
              />
            </Box>
          )}
          <Outcome
            word={wordOf(patch.id)}
            lightness={!process.passes_through ? (figuresOf(side, patch.id)?.lightness ?? null) : null}
            apart={side === first ? null : differenceOf(patch.id)}
            rough={!photo?.card || !photoOf(first, face)?.card}
          />
        </Flex>
      ) : (
        <Text mt="3" color="ink2">
          No patch here has these settings.
        </Text>
      )}
    </Card>
  )
}

const ratio = ({ plate }: Side) => `${plate.plate.width_mm} / ${plate.plate.height_mm}`

function Head({ side, held, onRemove, photo }: SideColumnProps & { photo: ReturnType<typeof photoOf> }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const settings = side.plate.patches.find((patch) => patch.burn)?.settings ?? {}
  const apart = held.flatMap((key) => {
    const value = settings[key]
    if (value === undefined) return []
    const said = shown(value, parameter(key), inventory.units, units)
    return [`${parameter(key).name} ${said.value} ${said.unit}`.trim()]
  })
  const facts = [...apart, ...conditionsOf(side.burn, photo)]
  return (
    <Box mb="2" minH="64px">
      <Flex justify="space-between" gap="2">
        <Text fontWeight="700">
          <RouterLink to={`/trials/${side.trial.id}/read?burn=${side.burn.id}`}>
            {trialName(side.trial.number)}
          </RouterLink>
          <Text as="span" fontWeight="400" color="ink2">
            {' '}
            {day(side.burn.at)}
          </Text>
        </Text>
        {onRemove && (
          <Button
            look="link"
            size="sm"
            minH="28px"
            aria-label={`Take ${trialName(side.trial.number)} away`}
            onClick={onRemove}
          >
            <X size={16} />
          </Button>
        )}
      </Flex>
      <Text fontSize="14.5px" lineHeight="1.3">
        {side.trial.material} on {side.trial.head}
      </Text>
      <Text fontSize="14px" color={facts.length ? 'steel' : 'ink2'} fontWeight={facts.length ? '600' : '400'}>
        {facts.join(' · ') || 'nothing more noted'}
      </Text>
    </Box>
  )
}

interface OutcomeProps {
  word: string
  lightness: number | null
  apart: Difference | null
  /** Without a reference card each phone bends lightness its own way. */
  rough: boolean
}

function Outcome({ word, lightness, apart, rough }: OutcomeProps) {
  return (
    <Box>
      <Text fontSize="19px" fontWeight="600" lineHeight="1.2">
        {word}
      </Text>
      {lightness !== null && (
        <Text fontFamily="numeral" fontWeight="700" fontSize="26px" lineHeight="1.2">
          {lightness.toFixed(0)}{' '}
          <Text as="span" fontFamily="body" fontWeight="400" fontSize="14px" color="ink2">
            L*
          </Text>
        </Text>
      )}
      {apart && (
        <Text fontSize="14.5px" color="ink2">
          {apart.outcome !== null && `${signed(apart.outcome)} to the first`}
          {apart.lightness !== null && `, ${signed(apart.lightness, 1)} L*`}
          {apart.lightness !== null && rough && (
            <Text as="span" display="block">
              roughly: not both photos have the reference card
            </Text>
          )}
        </Text>
      )}
    </Box>
  )
}
