import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { KeyboardEvent } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Burn, Patch, TrialPageData } from '../../api/types'
import { DoseRail, doseOf } from '../../plate/DoseRail'
import { ARROWS, neighbour } from '../../plate/geometry'
import { Crossed, Figure } from '../../plate/PatchMarks'
import { Plate } from '../../plate/Plate'
import { doseColour, doseRange, onDose } from '../../plate/scales'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Numeral, Section } from '../../shared/Parts'
import { useProcess, useShop } from '../../shared/ShopContext'
import { dayAndTime, minutes } from '../../shared/words'
import { PlateBox } from '../PlateBox'
import { useNotBurned } from '../useNotBurned'
import { BurnForm } from './BurnForm'
import { FilesCard } from './FilesCard'

/** Burn: the files, "I burned it", and which patches stayed bare. */
export function BurnStage({ page }: { page: TrialPageData }) {
  const process = useProcess(page.process)
  const [again, setAgain] = useState(false)
  const burn = page.burns[0]
  const fresh = page.frozen && (!burn || burn.revision < page.revision)
  const plate = fresh || !page.burned ? page.plate : page.burned
  const texts = fresh || !page.burned ? page.texts : page.burned_texts
  const [active, setActive] = useState<string | null>(null)
  const skip = useNotBurned(page)
  if (!plate) return <Text>This plan cannot be drawn: {page.problem?.detail}</Text>
  const range = doseRange(plate.patches.map(doseOf))
  const fill = (patch: Patch) => doseColour(doseOf(patch), range)
  const turn = new Map(plate.order.map((id, i) => [id, i + 1]))
  const marking = burn !== undefined && !fresh
  const isSkipped = (patch: Patch) => marking && page.not_burned.includes(patch.id)
  const toggle = (id: string) => {
    const patch = plate.patches.find((one) => one.id === id)
    if (marking && patch?.burn) skip(id)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const step = ARROWS[event.key]
    if (step) {
      event.preventDefault()
      setActive(neighbour(plate.patches, active ?? '', step))
    } else if (event.key === 'o' && active) toggle(active)
  }
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0">
        <PlateBox plate={plate} around={320}>
          <Plate
            plate={plate}
            texts={texts}
            label={`Plate ${page.code}; figures are the burn order`}
            fill={fill}
            name={(patch) =>
              `${patch.id}, ${patch.burn ? `turn ${turn.get(patch.id)}` : 'left out'}${isSkipped(patch) ? ', not burned' : ''}`
            }
            active={active}
            onPick={(id) => {
              setActive(id)
              if (active === id) toggle(id)
            }}
            onKeyDown={onKeyDown}
            over={(patch) => {
              const box = { width: patch.width_mm, height: patch.height_mm }
              if (!patch.burn || isSkipped(patch)) return <Crossed {...box} />
              return (
                <Figure
                  {...box}
                  colour={onDose(doseOf(patch), range)}
                  text={String(turn.get(patch.id) ?? '')}
                />
              )
            }}
          />
        </PlateBox>
        <Box mt="3">
          <DoseRail
            patches={plate.patches}
            unit={process.dose_unit}
            fill={fill}
            active={active}
            onPick={setActive}
            label="Doses of all patches"
          />
        </Box>
      </Box>
      <Flex direction="column" gap="3">
        <Flex gap="6">
          <Numeral size="m" value={minutes(plate.seconds)} unit="min" />
          <Numeral size="m" value={String(plate.order.length)} unit="patches" />
        </Flex>
        {page.frozen ? (
          <FilesCard page={page} />
        ) : (
          <Card p="3">
            <Text>The files of this plan have not been fetched yet.</Text>
            <Button asChild look="emberLine" mt="2">
              <RouterLink to={`/trials/${page.id}/plan`}>Back to the plan</RouterLink>
            </Button>
          </Card>
        )}
        {(!burn || fresh || again) && <BurnForm key={page.edit} page={page} />}
        {burn && !fresh && <BurnLog page={page} burn={burn} active={active} onToggle={toggle} />}
        {burn && !fresh && !again && (
          <Button look="link" alignSelf="flex-start" onClick={() => setAgain(true)}>
            Burned once more on another piece
          </Button>
        )}
      </Flex>
      <KeysHelp
        hints={[
          { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
          { keys: ['o'], does: 'not burned, or burned after all' },
        ]}
      />
    </Grid>
  )
}

interface BurnLogProps {
  page: TrialPageData
  burn: Burn
  active: string | null
  onToggle: (id: string) => void
}

function BurnLog({ page, burn, active, onToggle }: BurnLogProps) {
  const { me } = useShop()
  const lines = [
    ['Lot', [burn.lot, burn.measured_mm && `${burn.measured_mm} mm measured`].filter(Boolean).join(', ')],
    ['Focus', burn.focus],
    ['Air', burn.air],
    ['Note', burn.note],
  ].filter(([, value]) => value)
  const skipped = active !== null && page.not_burned.includes(active)
  return (
    <Card p="4">
      <Section title="Burned">
        <Text fontWeight="600" fontSize="17px">
          {dayAndTime(burn.at)}, {burn.by_name}
        </Text>
        {lines.map(([name, value]) => (
          <Text key={name}>
            <Text as="span" color="ink2">
              {name}:
            </Text>{' '}
            {value}
          </Text>
        ))}
        <Text mt="2">
          {page.not_burned.length === 0
            ? 'Every patch was burned. If one was not, choose it on the plate.'
            : `Not burned: ${page.not_burned.join(', ')}.`}
        </Text>
        <Flex gap="2" mt="3" wrap="wrap">
          <Button asChild look="ember" size="lg">
            <RouterLink to={`/trials/${page.id}/read`}>Read the plate</RouterLink>
          </Button>
          {active && me.may_write && (
            <Button look="quiet" size="lg" onClick={() => onToggle(active)}>
              {active} {skipped ? 'was burned after all' : 'was not burned'}
            </Button>
          )}
        </Flex>
      </Section>
    </Card>
  )
}
