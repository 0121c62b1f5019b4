import { Box, Flex, Text } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { Redo2, Undo2 } from 'lucide-react'
import { memo, useState } from 'react'
import { Link as RouterLink, useNavigate } from 'react-router'
import { ProblemError, answer, api, whoOf } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Design, Preview, TrialPageData } from '../../api/types'
import { Button } from '../../shared/Button'
import { Failure, Numeral } from '../../shared/Parts'
import { useParameter, useShop } from '../../shared/ShopContext'
import { TwoVersions } from '../../shared/TwoVersions'
import { sayFailed } from '../../shared/toast'
import { clockUnit, minutes, trialName, typingWords } from '../../shared/words'
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
  const { plate } = good
  const [first] = errors
  return (
    <Box bg="paper" pt="2" pb="3" borderTopWidth="1px" borderColor="line">
      <Figures
        time={minutes(plate.seconds)}
        timeUnit={clockUnit(plate.seconds)}
        footprint={`${Math.ceil(plate.plate.width_mm)} x ${Math.ceil(plate.plate.height_mm)}`}
      />
      {plate.typing && (
        <Text fontWeight="600" fontSize="15px" mt="1">
          {typingWords(plate.typing)}
        </Text>
      )}
      <Assumed head={page.head_id} />
      <Flex gap="2" mt="3" align="center" wrap="wrap">
        <GetTheFiles
          trial={page.id}
          save={handle.save}
          disabled={!good.burnable || errors.size > 0 || !me.may_write}
        />
        <History undo={handle.undo} redo={handle.redo} canUndo={handle.canUndo} canRedo={handle.canRedo} />
        <Text fontSize="13.5px" color={first ? 'emberOnSoft' : 'ink2'} aria-live="polite">
          {first ? 'not kept' : handle.unsaved ? 'keeping …' : 'kept'}
        </Text>
      </Flex>
      {first && (
        <Flex mt="2" gap="2" align="baseline" color="emberOnSoft" fontSize="14px" data-plan-error="">
          <Text flex="1">
            <strong>Save failed: {fieldName(first[0], handle.design, inventory)}.</strong> {first[1]}
          </Text>
          <Button look="link" size="sm" onClick={showWhatIsWrong}>
            Show it
          </Button>
        </Flex>
      )}
      {!me.may_write && (
        <Text mt="2" fontSize="14px" color="ink2">
          You are here as {me.role}; a member can plan and get the files.
        </Text>
      )}
    </Box>
  )
}

/** To the first field that is wrong; what is folded away there is open by then. */
function showWhatIsWrong() {
  const field = document.querySelector<HTMLElement>('main [aria-invalid="true"]')
  field?.scrollIntoView({ block: 'center' })
  field?.focus()
}

/** What follows from a figure of a machine, in the order in which it is said. */
const FOLLOWS = ['time', 'power', 'dose'] as const
const IN_ONE = new Intl.ListFormat('en-GB')

/** What time, power and dose rest on, where nobody has looked it up yet. */
const Assumed = memo(function Assumed({ head: id }: { head: number }) {
  const { inventory } = useShop()
  const head = inventory.heads.find((one) => one.id === id)
  const assumed = new Set([...(head?.machine_assumed ?? []), ...(head?.assumed ?? [])])
  const facts = inventory.forms.facts.filter((fact) => assumed.has(fact.key))
  const said = FOLLOWS.map((what) => [what, facts.filter((fact) => fact.matters === what)] as const)
    .filter(([, those]) => those.length > 0)
    .map(([what, those]) => `${what} from an assumed ${IN_ONE.format(those.map((fact) => fact.name))}`)
  if (!head || said.length === 0) return null
  const sentence = said.join('; ')
  return (
    <Text fontSize="14px" color="steel" mt="1">
      {sentence.charAt(0).toUpperCase() + sentence.slice(1)}.{' '}
      <RouterLink to="/shop" style={{ textDecoration: 'underline' }}>
        Look them up for {head.machine}
      </RouterLink>
    </Text>
  )
})

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
      <Button minW="40px" px="2" disabled={!canUndo} onClick={undo} aria-label="Undo">
        <Undo2 size={18} />
      </Button>
      <Button minW="40px" px="2" disabled={!canRedo} onClick={redo} aria-label="Redo">
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

/** Fixes the design for good and goes on to the burn; its files are one way of two. */
const GetTheFiles = memo(function GetTheFiles({ trial, save, disabled }: GetTheFilesProps) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const [busy, setBusy] = useState(false)
  const fix = async (to: string) => {
    setBusy(true)
    try {
      const edit = await save()
      await answer(api.POST('/api/trials/{id}/files', { params: { path: { id: trial } }, body: { edit } }))
      await client.invalidateQueries({ queryKey: trialKey(trial) })
      void forgetLists()
      void navigate(`/trials/${trial}/burn${to}`)
    } catch (error) {
      sayFailed(error)
    } finally {
      setBusy(false)
    }
  }
  return (
    <>
      <Button look="ember" size="lg" loading={busy} disabled={disabled} onClick={() => void fix('')}>
        Burn it now
      </Button>
      <Button loading={busy} disabled={disabled} onClick={() => void fix('?files')}>
        Get the files
      </Button>
    </>
  )
})
