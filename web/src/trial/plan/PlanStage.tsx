import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { Redo2, Undo2 } from 'lucide-react'
import { useState } from 'react'
import type { KeyboardEvent } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError, post } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import { useQueryClient } from '@tanstack/react-query'
import type { Patch, TrialPageData } from '../../api/types'
import { DoseRail, doseOf } from '../../plate/DoseRail'
import { Crossed, Danger, Figure } from '../../plate/PatchMarks'
import { Plate } from '../../plate/Plate'
import { doseColour, doseRange, onDose } from '../../plate/scales'
import { neighbour } from '../../plate/geometry'
import type { Step } from '../../plate/geometry'
import { Choice } from '../../shared/Fields'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Failure, Numeral, Section } from '../../shared/Parts'
import { useParameter, useProcess, useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { minutes } from '../../shared/words'
import { PlateBox } from '../PlateBox'
import { AxisEdge } from './AxisEdge'
import { fittingParameters, toggleOff } from './design'
import { HeldSettings } from './HeldSettings'
import { LabelSettings, PatchSize } from './LabelSettings'
import { LookOut } from './LookOut'
import { useDesign } from './useDesign'
import type { DesignHandle } from './useDesign'
import { WhatVaries } from './WhatVaries'
import './plan.css'

const STEPS: Record<string, Step> = {
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ArrowUp: 'up',
  ArrowDown: 'down',
}

/** Plan: the axes are edited on the plate's edges, and the plate follows every keystroke. */
export function PlanStage({ page }: { page: TrialPageData }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const process = useProcess(page.process)
  const handle = useDesign(page, units)
  const [active, setActive] = useState<string | null>(null)
  const head = inventory.heads.find((one) => one.id === page.head_id)
  const { design, good, change, undo } = handle
  if (!head) return null
  if (!good) {
    return handle.failure || handle.errors.size > 0 ? (
      <Failure error={handle.failure ?? new Error([...handle.errors.values()].join(' '))} />
    ) : null
  }
  const choices = fittingParameters(inventory.parameters, process, head)
  const patches = good.plate.patches
  const range = doseRange(patches.map(doseOf))
  const fill = (patch: Patch) => doseColour(doseOf(patch), range)
  const onKeyDown = (event: KeyboardEvent) => {
    const step = STEPS[event.key]
    if (step) {
      event.preventDefault()
      setActive(neighbour(patches, active ?? '', step))
    } else if (event.key === 'u' || (event.key === 'z' && (event.ctrlKey || event.metaKey))) {
      event.preventDefault()
      undo()
    } else if ((event.key === 'Delete' || event.key === 'x') && active) {
      change(toggleOff(design, active))
    }
  }
  const start = design.starting_dose_j_mm ?? design.starting_dose_j_mm2
  return (
    <Grid templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }} gap="6" alignItems="start">
      <Box minW="0">
        <Grid templateColumns="124px minmax(0, max-content)" columnGap="2" rowGap="2" justifyContent="center">
          <Box py="2">
            <AxisEdge along="y" handle={handle} choices={choices} head={head} />
          </Box>
          <PlateBox plate={good.plate} around={360}>
            <Plate
              plate={good.plate}
              texts={good.texts}
              label={`Plan of ${page.material}, ${patches.length} patches`}
              fill={fill}
              name={(patch) => `${patch.id}, ${doseOf(patch).toPrecision(3)} ${process.dose_unit}`}
              active={active}
              onPick={setActive}
              onKeyDown={onKeyDown}
              over={(patch) => <PlannedPatch patch={patch} colour={onDose(doseOf(patch), range)} />}
            />
          </PlateBox>
          <Box />
          <AxisEdge along="x" handle={handle} choices={choices} head={head} />
        </Grid>
        <Box mt="3">
          <DoseRail
            patches={patches}
            unit={process.dose_unit}
            fill={fill}
            active={active}
            onPick={setActive}
            marked={start ? { dose: start, word: 'starting dose' } : null}
            label={`Doses from ${range.low.toPrecision(3)} to ${range.high.toPrecision(3)} ${process.dose_unit}`}
          />
        </Box>
      </Box>
      <Flex direction="column" gap="2.5">
        <Conflict handle={handle} />
        <Card p="3">
          <Section title="What varies">
            <WhatVaries plate={good.plate} />
            <Text color="ink2" fontSize="14px" mt="1">
              {page.reason}
            </Text>
          </Section>
          <Box mt="2">
            <HeldSettings handle={handle} choices={choices} head={head} />
          </Box>
        </Card>
        <Card p="3">
          <Section title="Patch and labels">
            <PatchSize handle={handle} />
            <Box mt="2">
              <LabelSettings handle={handle} parameter={parameter} />
            </Box>
            <Flex mt="2" align="center" gap="3" wrap="wrap">
              <Text fontSize="14px" color="ink2">
                Order
              </Text>
              <Choice
                label="Order"
                value={design.order}
                onPick={(order) => change({ ...design, order: order as typeof design.order })}
                options={[
                  { value: 'weakest_first', label: 'weakest first' },
                  { value: 'rows', label: 'row by row' },
                ]}
              />
            </Flex>
          </Section>
        </Card>
        {active && (
          <ActivePatch
            patch={patches.find((patch) => patch.id === active)}
            handle={handle}
            unit={process.dose_unit}
          />
        )}
        <LookOut
          plate={good.plate}
          onLeaveOut={(ids) => change({ ...design, off: [...new Set([...design.off, ...ids])] })}
        />
        <Totals page={page} handle={handle} />
      </Flex>
      <KeysHelp
        hints={[
          { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
          { keys: ['x'], does: 'leave a patch out, or take it in again' },
          { keys: ['u'], does: 'undo' },
        ]}
      />
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

function ActivePatch({
  patch,
  handle,
  unit,
}: {
  patch: Patch | undefined
  handle: DesignHandle
  unit: string
}) {
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
        <Button
          look="link"
          size="sm"
          ml="auto"
          onClick={() => handle.change(toggleOff(handle.design, patch.id))}
        >
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

/** Two people edited the same trial: nothing is merged silently. */
function Conflict({ handle }: { handle: DesignHandle }) {
  const { saveError } = handle
  if (!saveError) return null
  if (!(saveError instanceof ProblemError) || saveError.status !== 409) return <Failure error={saveError} />
  return (
    <Card bg="steelSoft" borderColor="steel" role="alert">
      <Text fontWeight="600">{saveError.message}</Text>
      <Flex gap="2" mt="2">
        <Button look="quiet" size="sm" onClick={() => void handle.takeTheirs().catch(sayFailed)}>
          Take theirs
        </Button>
        <Button look="quiet" size="sm" onClick={() => void handle.keepMine().catch(sayFailed)}>
          Keep mine
        </Button>
      </Flex>
    </Card>
  )
}

/** Time and footprint, undo, and the one thing to do next. */
function Totals({ page, handle }: { page: TrialPageData; handle: DesignHandle }) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const { me } = useShop()
  const [busy, setBusy] = useState(false)
  const { good, errors } = handle
  if (!good) return null
  const { plate, files } = good
  const refused = files.every((file) => file.refused || file.kind === 'json')
  const getFiles = async () => {
    setBusy(true)
    try {
      const edit = await handle.save()
      await post(`/api/trials/${page.id}/files`, { edit })
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
      void navigate(`/trials/${page.id}/burn`)
    } catch (error) {
      sayFailed(error)
    } finally {
      setBusy(false)
    }
  }
  return (
    <Box
      position={{ lg: 'sticky' }}
      bottom="0"
      bg="paper"
      pt="2"
      pb="3"
      borderTopWidth="1px"
      borderColor="line"
    >
      <Flex gap="6" align="flex-end" wrap="wrap">
        <Box>
          <Text
            fontSize="12.5px"
            fontWeight="600"
            color="ink2"
            textTransform="uppercase"
            letterSpacing="0.06em"
          >
            Burns for
          </Text>
          <Numeral size="m" value={minutes(plate.seconds)} unit="min" />
        </Box>
        <Box>
          <Text
            fontSize="12.5px"
            fontWeight="600"
            color="ink2"
            textTransform="uppercase"
            letterSpacing="0.06em"
          >
            Footprint
          </Text>
          <Numeral
            size="m"
            value={`${Math.ceil(plate.plate.width_mm)} x ${Math.ceil(plate.plate.height_mm)}`}
            unit="mm"
          />
        </Box>
      </Flex>
      <Flex gap="2" mt="3" align="center">
        <Button
          look="ember"
          size="lg"
          loading={busy}
          disabled={refused || errors.size > 0 || !me.may_write}
          onClick={() => void getFiles()}
        >
          Get the files
        </Button>
        <Button look="quiet" disabled={!handle.canUndo} onClick={handle.undo} aria-label="Undo">
          <Undo2 size={18} />
        </Button>
        <Button look="quiet" disabled={!handle.canRedo} onClick={handle.redo} aria-label="Redo">
          <Redo2 size={18} />
        </Button>
        <Text fontSize="13.5px" color="ink2" aria-live="polite">
          {errors.size > 0 ? 'not kept: something cannot be' : handle.unsaved ? 'keeping …' : 'kept'}
        </Text>
      </Flex>
      {!me.may_write && (
        <Text mt="2" fontSize="14px" color="ink2">
          You are here as {me.role}; a member can plan and get the files.
        </Text>
      )}
    </Box>
  )
}
