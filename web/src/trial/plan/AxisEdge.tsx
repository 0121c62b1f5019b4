import { Button } from '../../shared/Button'
import { Flex, Text } from '@chakra-ui/react'
import { Minus, Plus } from 'lucide-react'
import { memo } from 'react'
import type { Axis, Design, Parameter } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import type { Along } from './design'
import {
  addSteps,
  changeAxis,
  changeParameter,
  changeSpacing,
  listText,
  removeAxis,
  stepCount,
  swapAxes,
} from './design'
import { COUNT } from './lengths'
import { TypedField } from './TypedField'
import type { Change } from './useDesign'
import { useFirstAxis } from './useFirstAxis'

interface AxisEdgeProps {
  along: Along
  axis: Axis
  /** Where the axis stands in the design, for the paths of errors. */
  index: number
  /** The values of the last good plan, joined so that they compare by value. */
  planned: string
  /** Whether the axis stands alone and may go on in a new line. */
  ladder: boolean
  /** Whether it may stop varying. */
  removable: boolean
  choices: Parameter[]
  /** All axes of the design. */
  others: Axis[]
  hold: Design['hold']
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** What an axis is called, and where it runs, for those who do not see it. */
const PLACES: Record<Along, { name: string; group: string }> = {
  x: { name: 'x axis', group: 'Along the plate' },
  y: { name: 'y axis', group: 'Up the plate' },
  block_x: { name: 'blocks across', group: 'Blocks across the plate' },
  block_y: { name: 'blocks up', group: 'Blocks up the plate' },
}

const HOLD = 'hold it'

const SPACINGS = [
  { value: 'linear', label: 'even steps' },
  { value: 'geometric', label: 'even ratios' },
  { value: 'list', label: 'a list' },
]

/** An axis edited on the plate's own edge: its name is the title, its end values stand at its ends. */
export const AxisEdge = memo(function AxisEdge(props: AxisEdgeProps) {
  const { along, axis, index, planned, ladder, removable, choices, errors, change, settle } = props
  const ask = useFirstAxis()
  const place = PLACES[along]
  const { inventory, units } = useShop()
  const parameter = choices.find((choice) => choice.key === axis.parameter)
  if (!parameter) return null
  const path = `axes[${index}]`
  const upright = along === 'y' || along === 'block_y'
  const values = planned === '' ? [] : planned.split(' ').map(Number)
  const unit = unitOf(inventory.units, parameter.quantity, units)
  const listed = axis.values !== undefined && axis.values !== null
  const sentence = [...errors].find(([at]) => at.startsWith(path))?.[1]
  const vary = (key: string) => {
    const there = props.others.find((other) => other.parameter === key)
    if (there) {
      change((design) => swapAxes(design, along, there.along))
      return
    }
    ask(props.hold, axis.parameter, along, ({ held }) =>
      ask(props.hold, key, along, (first) =>
        change((design) => changeParameter(design, along, key, first, held)),
      ),
    )
  }
  const end = (key: 'from' | 'to') => (
    <TypedField
      label={`${parameter.name} ${key}, ${place.name}`}
      value={axis[key]}
      parameter={parameter}
      error={errors.get(`${path}.${key}`)}
      onType={(text) => change((design) => changeAxis(design, along, { [key]: text }), `${path}.${key}`)}
      onLeave={settle}
      width="84px"
    />
  )
  const name = (
    <select
      className="axis-name"
      aria-label={`Setting along ${along}`}
      value={parameter.key}
      onChange={(event) => {
        const chosen = choices.find((choice) => choice.key === event.currentTarget.value)
        if (event.currentTarget.value === HOLD) {
          ask(props.hold, axis.parameter, along, ({ held }) =>
            change((design) => removeAxis(design, along, held)),
          )
        }
        if (chosen) vary(chosen.key)
      }}
    >
      {choices.map((choice) => (
        <option key={choice.key} value={choice.key}>
          {choice.name}
        </option>
      ))}
      {removable && <option value={HOLD}>hold it</option>}
    </select>
  )
  const wrap = ladder && (
    <Flex align="center" gap="1">
      <Text color="ink2" fontSize="14px" whiteSpace="nowrap">
        in lines of
      </Text>
      <TypedField
        label={`Steps in a line, ${place.name}`}
        value={axis.wrap ?? ''}
        parameter={COUNT}
        error={errors.get(`${path}.wrap`)}
        placeholder="all"
        onType={(text) =>
          change(
            (design) => changeAxis(design, along, { wrap: text.trim() === '' ? undefined : text }),
            `${path}.wrap`,
          )
        }
        onLeave={settle}
        width="56px"
      />
    </Flex>
  )
  const spacing = (
    <select
      className="axis-spacing"
      aria-label={`Steps along ${along}`}
      value={listed ? 'list' : (axis.spacing ?? 'linear')}
      onChange={(event) => {
        const chosen = event.currentTarget.value as 'linear' | 'geometric' | 'list'
        change((design) => changeSpacing(design, along, chosen, values))
      }}
    >
      {SPACINGS.filter(({ value }) => !parameter.whole || value !== 'geometric').map((option) => (
        <option key={option.value} value={option.value}>
          {listed && option.value === 'list' ? 'a list' : `${stepCount(axis) || ''} ${option.label}`}
        </option>
      ))}
    </select>
  )
  const steps = <Steps along={along} parameter={parameter} change={change} />
  const list = (
    <TypedField
      label={`${parameter.name} values, ${place.name}`}
      value={listText(axis.values, unit)}
      parameter={parameter}
      error={sentence}
      onType={(text) => change((design) => changeAxis(design, along, { values: text }), `${path}.values`)}
      onLeave={settle}
      width={upright ? '100px' : '260px'}
      textAlign="left"
    />
  )
  const title = (
    <Flex direction={upright ? 'column' : 'row'} align="center" gap={upright ? '0' : '2'} wrap="wrap">
      {name}
      <Text color="ink2" fontSize="14px">
        {unitSign(unit?.symbol ?? '')}
      </Text>
      {spacing}
      {wrap}
    </Flex>
  )
  return (
    <Flex
      direction={upright ? 'column' : 'row'}
      align="center"
      justify="space-between"
      gap="1.5"
      height={upright ? '100%' : undefined}
      wrap={upright ? undefined : 'wrap'}
      role="group"
      aria-label={place.group}
    >
      {upright ? (
        <>
          <Flex direction="column" align="center" gap="1.5">
            {steps}
            {listed ? list : end('to')}
          </Flex>
          {title}
          {listed ? <span /> : end('from')}
        </>
      ) : (
        <>
          {listed ? list : end('from')}
          {title}
          <Flex gap="1.5" align="center">
            {!listed && end('to')}
            {steps}
          </Flex>
        </>
      )}
      {sentence && (
        <Text role="alert" color="emberOnSoft" fontSize="13px" flexBasis={upright ? undefined : '100%'}>
          {sentence}
        </Text>
      )}
    </Flex>
  )
})

interface StepsProps {
  along: Along
  parameter: Parameter
  change: Change
}

const Steps = memo(function Steps({ along, parameter, change }: StepsProps) {
  return (
    <Flex gap="1">
      {([-1, 1] as const).map((by) => (
        <Button
          key={by}
          aria-label={`${by < 0 ? 'One step less' : 'One step more'} along ${along}`}
          onClick={() => change((design) => addSteps(design, along, by, parameter))}
          size="xs"
          minW="32px"
          height="32px"
          borderRadius="full"
        >
          {by < 0 ? <Minus size={16} /> : <Plus size={16} />}
        </Button>
      ))}
    </Flex>
  )
})
