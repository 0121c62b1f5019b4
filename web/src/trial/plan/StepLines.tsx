import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { ArrowDown, ArrowUp, X } from 'lucide-react'
import { memo } from 'react'
import { useParams } from 'react-router'
import { answer, api } from '../../api/client'
import type { Design, Process, ProcessKey } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice, SelectField } from '../../shared/Fields'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { addStep, asSteps, canGo, moveStep, removeStep, stepOfPath, stepsOf, wayWords } from './steps'
import type { Change } from './useDesign'

const MOST_STEPS = 8
const ROUNDS = [1, 2, 3, 4, 5, 6, 8, 10, 15, 20].map((count) => ({
  value: String(count),
  label: count === 1 ? 'one round of them' : `${count} rounds of them`,
}))

interface StepLinesProps {
  design: Design
  process: Process
  /** Processes the sheet is meant for. */
  meantFor: readonly ProcessKey[]
  /** The step one looks at; null: all of them. */
  chosen: number | null
  errors: ReadonlyMap<string, string>
  change: Change
  onChoose: (step: number | null) => void
}

/** What is done to each patch, line by line, in its order: one line is chosen and edited on the plate. */
export const StepLines = memo(function StepLines(props: StepLinesProps) {
  const { design, process, chosen, errors, change, onChoose } = props
  const { inventory } = useShop()
  const steps = stepsOf(design)
  const name = (key: ProcessKey) => inventory.processes.find((one) => one.key === key)?.name ?? key
  const wrong = new Set([...errors.keys()].map((path) => stepOfPath(path, design)))
  return (
    <Box mt="2">
      {steps.length > 1 && (
        <Box as="ol" listStyleType="none" m="0" p="0" aria-label="Steps">
          {steps.map((step, i) => (
            <Flex
              key={step.name}
              as="li"
              align="center"
              gap="1"
              bg={chosen === i ? 'emberSoft' : undefined}
              borderRadius="control"
              pl="1"
            >
              <Button
                look="link"
                size="sm"
                textDecoration="none"
                color={chosen === i ? 'emberOnSoft' : 'ink'}
                flex="1"
                minH="36px"
                minW="0"
                justifyContent="flex-start"
                aria-pressed={chosen === i}
                onClick={() => onChoose(i)}
              >
                <Text as="span" fontWeight="700" fontSize="17px" w="20px" textAlign="left">
                  {i + 1}
                </Text>
                <Text as="span" fontWeight={chosen === i ? 700 : 500} truncate>
                  {step.name === name(step.process).toLowerCase() ? name(step.process) : step.name}
                </Text>
                <Text as="span" color={wrong.has(i) ? 'emberOnSoft' : 'ink2'} fontSize="14px" truncate ml="2">
                  {wrong.has(i) ? 'look here' : wayWords(step)}
                </Text>
              </Button>
              <Small
                label={`${step.name} earlier`}
                disabled={i === 0}
                onClick={() => {
                  change((now) => moveStep(now, i, -1))
                  onChoose(i - 1)
                }}
              >
                <ArrowUp size={15} />
              </Small>
              <Small
                label={`${step.name} later`}
                disabled={i === steps.length - 1}
                onClick={() => {
                  change((now) => moveStep(now, i, 1))
                  onChoose(i + 1)
                }}
              >
                <ArrowDown size={15} />
              </Small>
              <Small
                label={`Without ${step.name}`}
                disabled={!canGo(design, i, process.key)}
                onClick={() => {
                  change((now) => removeStep(now, i))
                  onChoose(0)
                }}
              >
                <X size={15} />
              </Small>
            </Flex>
          ))}
        </Box>
      )}
      <Flex gap="2" mt="1" align="center" wrap="wrap">
        {steps.length > 1 && (
          <Button look="link" size="sm" aria-pressed={chosen === null} onClick={() => onChoose(null)}>
            Show all on the plate
          </Button>
        )}
        {!design.listed && !design.added && steps.length < MOST_STEPS && <AddStep {...props} name={name} />}
      </Flex>
      {steps.length > 1 && <InTurn design={design} change={change} />}
    </Box>
  )
})

interface SmallProps {
  label: string
  disabled: boolean
  onClick: () => void
  children: React.ReactNode
}

const Small = ({ label, disabled, onClick, children }: SmallProps) => (
  <Button size="xs" minW="32px" height="32px" px="0" aria-label={label} disabled={disabled} onClick={onClick}>
    {children}
  </Button>
)

/** One more step, from where the book begins it. */
function AddStep({
  design,
  process,
  meantFor,
  change,
  onChoose,
  name,
}: StepLinesProps & { name: (key: ProcessKey) => string }) {
  const id = Number(useParams().id)
  const { inventory } = useShop()
  const add = useMutation({
    mutationFn: (wanted: ProcessKey) =>
      answer(
        api.GET('/api/trials/{id}/first-step', { params: { path: { id }, query: { process: wanted } } }),
      ),
    onSuccess: ({ step }) => {
      change((now) => addStep(asSteps(now, process), step))
      onChoose(Math.max(stepsOf(design).length, 1))
    },
    onError: sayFailed,
  })
  const offered = inventory.processes.filter((one) => one.offered && meantFor.includes(one.key))
  return (
    <select
      className="add-setting"
      aria-label="Add a step"
      value=""
      disabled={add.isPending}
      onChange={({ currentTarget }) => {
        const wanted = offered.find((one) => one.key === currentTarget.value)
        if (wanted) add.mutate(wanted.key)
      }}
    >
      <option value="">one more step …</option>
      {offered.map((one) => (
        <option key={one.key} value={one.key}>
          {name(one.key)}
        </option>
      ))}
    </select>
  )
}

/** How often the steps are repeated, and whether they go over the plate or patch by patch. */
function InTurn({ design, change }: { design: Design; change: Change }) {
  return (
    <Flex gap="2" mt="2" align="center" wrap="wrap">
      <SelectField
        label="All of them"
        hideLabel
        compact
        value={String(design.rounds ?? 1)}
        onPick={(rounds) => change((now) => ({ ...now, rounds: rounds === '1' ? null : Number(rounds) }))}
        options={ROUNDS}
      />
      <Choice
        label="In turn"
        value={design.steps_order ?? 'plate'}
        onPick={(chosen) => change((now) => ({ ...now, steps_order: chosen }))}
        options={[
          { value: 'plate', label: 'step by step, cuts last' },
          { value: 'patch', label: 'patch by patch' },
        ]}
      />
    </Flex>
  )
}
