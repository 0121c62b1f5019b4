import { memo } from 'react'
import type { Preview, ProcessKey } from '../../api/types'
import { plateOfStep, stepCount } from '../../plate/ofStep'
import { useProcess } from '../../shared/ShopContext'
import { PlannedRail } from './PlannedPlate'

interface RailsProps {
  /** The plan with all its steps. */
  whole: Preview
  /** The same seen by the step one looks at. */
  good: Preview
  /** The dose that step begins from. */
  start: number | null
  active: string | null
  onActive: (id: string) => void
}

/** The dose rail: a line for each step, the one that is looked at first. */
export const Rails = memo(function Rails({ whole, good, start, ...rest }: RailsProps) {
  const count = stepCount(whole.plate)
  const shown = good.plate.judged
  const steps = whole.plate.trial.steps ?? []
  const others = Array.from({ length: count }, (_, i) => i).filter((i) => i !== shown)
  return (
    <>
      <OneRail good={good} start={start} name={count > 1 ? steps[shown]?.name : undefined} {...rest} />
      {others.map((i) => (
        <OneRail
          key={steps[i]?.name ?? i}
          good={{ ...whole, plate: plateOfStep(whole.plate, i) }}
          start={null}
          name={steps[i]?.name}
          {...rest}
        />
      ))}
    </>
  )
})

interface OneRailProps extends Omit<RailsProps, 'whole'> {
  name?: string
}

function OneRail({ good, ...rest }: OneRailProps) {
  const key: ProcessKey = good.plate.trial.process ?? 'cut'
  const process = useProcess(key)
  return <PlannedRail good={good} process={process} {...rest} />
}
