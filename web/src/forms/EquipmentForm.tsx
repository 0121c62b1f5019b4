import { Flex, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { ProblemError } from '../api/client'
import { Button } from '../shared/Button'
import { useShop } from '../shared/ShopContext'
import { TwoVersions } from '../shared/TwoVersions'
import { useTabState } from '../shared/useTabState'
import { FormFields } from './FormFields'
import { assumedOf, differences, picked, sentFacts, typedValues } from './fields'
import type { Field, Values } from './fields'
import { useSave } from './useEquipment'
import { useWhoChanged } from './useWhoChanged'
import type { Kind } from './useEquipment'
import { isRecord } from '../shared/records'

const NO_ERRORS: ReadonlyMap<string, string> = new Map()

interface EquipmentFormProps {
  kind: Kind
  /** What the form asks for, which may depend on what was chosen in it. */
  fields: (values: Values) => Field[]
  /** The facts as they are stored, or where something new begins. */
  stored: Values
  /** The facts as shown, where that differs from what is stored. */
  shown?: Values
  row: { id: number; edit: number; title: string } | null
  /** With the id of what was kept; without one where nothing was. */
  onDone: (id?: number) => void
  /** When a field changes, others may follow. */
  follow?: (key: string, values: Values) => Values
  /** For a new machine: the facts of its first head. */
  split?: (facts: Values) => { facts: Values; heads: Values[] }
  children?: ReactNode
}

/** A row of the shop while it is edited, in its own place. */
export function EquipmentForm(props: EquipmentFormProps) {
  const { kind, stored, shown = stored, row } = props
  const { inventory, units } = useShop()
  const [form, setForm, forgetForm] = useTabState(
    `${kind}.${row?.id ?? `new.${String(stored.material_id ?? stored.machine_id ?? '')}`}`,
    () => {
      const typed = typedValues(props.fields(shown), shown, inventory.units, units)
      const began = 'assumed' in shown ? { ...typed, assumed: shown.assumed } : typed
      return { began, values: began, edit: row?.edit ?? 0 }
    },
  )
  const { began, values, edit } = form
  const onDone = (id?: number) => {
    forgetForm()
    props.onDone(id)
  }
  const save = useSave(kind, String(values.name ?? ''))
  const fields = props.fields(values)
  const stale = save.error instanceof ProblemError && save.error.status === 409 ? save.error : null
  const problem = save.error instanceof ProblemError ? save.error : null
  const errors = stale ? NO_ERRORS : (problem?.byPath() ?? NO_ERRORS)
  const who = useWhoChanged(kind, row?.id, stale !== null)
  const placed = fields.some((field) => [...errors.keys()].some((path) => path.startsWith(field.key)))

  const sendAs = (at: number, from: Values, before: Values | null, now: Values) => {
    const facts = sentFacts(fields, from, before, now)
    if ('assumed' in now) facts.assumed = now.assumed
    const parts = props.split?.(facts) ?? { facts }
    save.mutate(
      { ...parts, row: row && { id: row.id, edit: at } },
      {
        onSuccess: ({ id }) => onDone(id),
      },
    )
  }
  const send = (at: number) => sendAs(at, stored, row ? began : null, values)
  const change = (key: string, value: unknown) =>
    setForm((before) => {
      const next: Values = { ...before.values, [key]: value }
      // Whoever types a figure knows it.
      if ('assumed' in next) next.assumed = assumedOf(next).filter((one) => one !== key)
      return { ...before, values: props.follow?.(key, next) ?? next }
    })

  if (stale?.current) {
    const mine = sentFacts(fields, stored, row ? began : null, values)
    const { facts } = stale.current
    const theirs = { ...stale.current, ...(isRecord(facts) ? facts : {}) }
    return (
      <TwoVersions
        what={row?.title ?? 'this'}
        rows={differences(fields, theirs, { ...theirs, ...mine })}
        onTheirs={() => onDone()}
        who={who}
        onMine={(parts) => {
          const now = Number(stale.current?.edit)
          // What is not kept of mine is theirs from here on, in the form, too.
          const shownTheirs = typedValues(fields, theirs, inventory.units, units)
          const after = { ...values, ...shownTheirs, ...picked(values, [...parts]) }
          setForm((before) => ({ ...before, values: after, edit: now }))
          sendAs(now, theirs, shownTheirs, after)
        }}
      />
    )
  }
  return (
    <form
      aria-label={row?.title ?? `New ${kind}`}
      onSubmit={(event) => {
        event.preventDefault()
        send(edit)
      }}
    >
      <FormFields
        fields={fields}
        values={values}
        assumed={assumedOf(values)}
        errors={errors}
        onChange={change}
        fold={row === null}
      />
      {problem && !placed && (
        <Text role="alert" color="emberOnSoft" mt="2">
          {problem.message}
        </Text>
      )}
      <Flex gap="2" mt="4" py="2" wrap="wrap" position="sticky" bottom="0" bg="card">
        <Button type="submit" look="ember" loading={save.isPending}>
          Keep
        </Button>
        <Button onClick={() => onDone()}>Cancel</Button>
        {props.children}
      </Flex>
    </form>
  )
}
