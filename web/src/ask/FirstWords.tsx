import { Box, Text } from '@chakra-ui/react'
import { useEffect } from 'react'
import { useNavigate } from 'react-router'
import { useNewTrial } from '../api/hooks'
import type { Material, ProcessKey } from '../api/types'
import { NewMachine } from '../forms/NewMachine'
import { NewMaterial } from '../forms/NewMaterial'
import { AskSomebody } from '../shared/Allowed'
import { Card } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'
import { useTabState } from '../shared/useTabState'
import { useAddress } from '../shared/useAddress'

/** What is being filled in; with both words there, the plan. */
type Missing = 'machine' | 'sheet' | 'plan'

/** Which of the missing words somebody is filling in; the page stays the same until the first plate is planned. */
export const useMissingWord = () => useTabState<Missing | null>('first-words', null)

/** The sentence of a shop that has nothing yet: its missing words are buttons. Once both are there the first plate is
 * planned already. */
export function FirstWords({ word }: { word: ReturnType<typeof useMissingWord> }) {
  const { inventory, me } = useShop()
  const navigate = useNavigate()
  const [search, setSearch] = useAddress()
  const [adding, setAdding, forget] = word
  const begin = useNewTrial()
  const offered = inventory.processes.filter((one) => one.offered)
  const process = offered.find((one) => one.key === search.get('process')) ?? offered[0]
  const machine = inventory.heads.find((one) => !one.retired)
  const sheet = inventory.materials.find((one) => !one.retired)
  const add = (what: 'machine' | 'sheet') => setAdding(adding === what ? null : what)
  const next = (id: number | undefined, missing: Missing | null) =>
    setAdding(id === undefined ? null : (missing ?? 'plan'))
  const plan = (material: Material, head: number) => {
    forget()
    const meant = material.processes.find((key) => key === process?.key) ?? material.processes[0]
    if (!meant) return
    begin.mutate(
      { process: meant, material: material.id, head, begun_as: 'array' },
      { onSuccess: ({ id }) => void navigate(`/trials/${id}/plan`), onError: sayFailed },
    )
  }
  useEffect(() => {
    if (adding === 'plan' && machine && sheet && begin.isIdle) plan(sheet, machine.id)
  })
  return (
    <Box maxW="860px" pt={{ base: '0', lg: '4' }}>
      <Text as="h1" className="sentence">
        I want to{' '}
        <select
          aria-label="Process"
          value={process?.key}
          onChange={(event) =>
            setSearch({ process: event.currentTarget.value as ProcessKey }, { replace: true })
          }
        >
          {offered.map((one) => (
            <option key={one.key} value={one.key}>
              {one.verb}
            </option>
          ))}
        </select>{' '}
        {sheet ? (
          <strong>{sheet.title}</strong>
        ) : (
          <button type="button" disabled={!me.may_prove} onClick={() => add('sheet')}>
            add a sheet
          </button>
        )}{' '}
        <span style={{ whiteSpace: 'nowrap' }}>
          with{' '}
          {machine ? (
            <strong>{machine.title}</strong>
          ) : (
            <button type="button" disabled={!me.may_prove} onClick={() => add('machine')}>
              add a machine
            </button>
          )}
          .
        </span>
      </Text>
      <AskSomebody least="technician" to="add machines and materials" />
      {adding === null && (
        <Text color="ink2" fontSize="17px" mt="5" maxW="560px">
          Say what you burn and on which machine: then your first plate is planned. You burn it, score what
          came of it with one key a patch, and keep the best setting.
        </Text>
      )}
      {adding === 'machine' && (
        <Card p="5" mt="6">
          <NewMachine onDone={(id) => next(id, sheet ? null : 'sheet')} />
        </Card>
      )}
      {adding === 'sheet' && (
        <Card p="5" mt="6">
          <Text fontWeight="600" fontSize="18px" mb="3">
            A new sheet or blank
          </Text>
          <NewMaterial onDone={(id) => next(id, machine ? null : 'machine')} />
        </Card>
      )}
    </Box>
  )
}
