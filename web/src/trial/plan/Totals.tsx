import { Box, Flex, Text } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { Redo2, Undo2 } from 'lucide-react'
import { memo, useState } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError, answer, api, whoOf } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Design, Preview, TrialPageData } from '../../api/types'
import { Button } from '../../shared/Button'
import { Failure, Numeral } from '../../shared/Parts'
import { useParameter, useShop } from '../../shared/ShopContext'
import { TwoVersions } from '../../shared/TwoVersions'
import { sayFailed } from '../../shared/toast'
import { clockUnit, minutes, trialName } from '../../shared/words'
import { designDifferences } from './designDifferences'
import { fieldName } from './fieldNames'
import type { DesignHandle } from './useDesign'

/** Two people edited the same trial: nothing is merged silently. */
export function Conflict({ number, handle }: { number: number; handle: DesignHandle }) {
  const { saveError } = handle
  const parameter = useParameter()
  const { design_keys } = useShop().inventory
  if (!saveError) return null
  if (!(saveError instanceof ProblemError) || saveError.status !== 409) return <Failure error={saveError} />
  const theirs = saveError.current?.design as Design | undefined
  return (
    <TwoVersions
      what={trialName(number)}
      rows={theirs ? designDifferences(theirs, handle.design, design_keys, parameter) : []}
      onTheirs={() => void handle.takeTheirs().catch(sayFailed)}
      who={theirs && whoOf(saveError.current)}
      onMine={(parts) => void handle.keepMine(parts).catch(sayFailed)}
    />
  )
}

interface TotalsProps {
  page: TrialPageData
  good: Preview
  handle: DesignHandle
}

/** Time and footprint, undo, and the one thing to do next. */
export function Totals({ page, good, handle }: TotalsProps) {
  const { inventory, me } = useShop()
  const { errors } = handle
  const { plate, files } = good
  const [path] = errors.keys()
  const failed = path === undefined ? null : `Save failed: ${fieldName(path, handle.design, inventory)}`
  const refused = files.every((file) => file.refused || file.kind === 'json')
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
      <Figures
        time={minutes(plate.seconds)}
        timeUnit={clockUnit(plate.seconds)}
        footprint={`${Math.ceil(plate.plate.width_mm)} x ${Math.ceil(plate.plate.height_mm)}`}
      />
      <Flex gap="2" mt="3" align="center">
        <GetTheFiles
          trial={page.id}
          save={handle.save}
          disabled={refused || errors.size > 0 || !me.may_write}
        />
        <History undo={handle.undo} redo={handle.redo} canUndo={handle.canUndo} canRedo={handle.canRedo} />
        <Text fontSize="13.5px" color={failed ? 'emberOnSoft' : 'ink2'} aria-live="polite">
          {failed ?? (handle.unsaved ? 'keeping …' : 'kept')}
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

interface FiguresProps {
  time: string
  timeUnit: string
  footprint: string
}

const Figures = memo(function Figures({ time, timeUnit, footprint }: FiguresProps) {
  const figures = [
    { name: 'Burns for', value: time, unit: timeUnit },
    { name: 'Footprint', value: footprint, unit: 'mm' },
  ]
  return (
    <Flex gap="6" align="flex-end" wrap="wrap">
      {figures.map(({ name, value, unit }) => (
        <Box key={name}>
          <Text
            fontSize="12.5px"
            fontWeight="600"
            color="ink2"
            textTransform="uppercase"
            letterSpacing="0.06em"
          >
            {name}
          </Text>
          <Numeral size="m" value={value} unit={unit} />
        </Box>
      ))}
    </Flex>
  )
})

interface HistoryProps {
  undo: () => void
  redo: () => void
  canUndo: boolean
  canRedo: boolean
}

const History = memo(function History({ undo, redo, canUndo, canRedo }: HistoryProps) {
  return (
    <>
      <Button disabled={!canUndo} onClick={undo} aria-label="Undo">
        <Undo2 size={18} />
      </Button>
      <Button disabled={!canRedo} onClick={redo} aria-label="Redo">
        <Redo2 size={18} />
      </Button>
    </>
  )
})

interface GetTheFilesProps {
  trial: number
  save: () => Promise<number>
  disabled: boolean
}

/** Fixes the design for good and goes on to the burn. */
const GetTheFiles = memo(function GetTheFiles({ trial, save, disabled }: GetTheFilesProps) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [busy, setBusy] = useState(false)
  const getFiles = async () => {
    setBusy(true)
    try {
      const edit = await save()
      await answer(api.POST('/api/trials/{id}/files', { params: { path: { id: trial } }, body: { edit } }))
      await client.invalidateQueries({ queryKey: trialKey(trial) })
      void forgetLists()
      void navigate(`/trials/${trial}/burn`)
    } catch (error) {
      sayFailed(error)
    } finally {
      setBusy(false)
    }
  }
  return (
    <Button look="ember" size="lg" loading={busy} disabled={disabled} onClick={() => void getFiles()}>
      Get the files
    </Button>
  )
})
