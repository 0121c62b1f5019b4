import { Flex } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Process } from '../../api/types'
import { FigureField } from './FigureField'
import { Fold } from './Fold'
import { DOSE } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

interface DoseLimitsProps {
  /** As they are typed. */
  floor: Design[Limit]
  ceiling: Design[Limit]
  process: Process
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

type Limit = 'dose_floor_j_mm' | 'dose_floor_j_mm2' | 'dose_ceiling_j_mm' | 'dose_ceiling_j_mm2'

/** Extremes that stay bare, by their dose. */
export const DoseLimits = memo(function DoseLimits(props: DoseLimitsProps) {
  const { floor, ceiling, process, errors, change, settle } = props
  const suffix = process.fills ? 'j_mm2' : 'j_mm'
  const keys = [`dose_floor_${suffix}`, `dose_ceiling_${suffix}`] as [Limit, Limit]
  const says =
    [floor && `below ${floor}`, ceiling && `above ${ceiling}`].filter(Boolean).join(' and ') || 'no extremes'
  return (
    <Fold
      title="Leave out"
      says={floor || ceiling ? `${says} ${process.dose_unit}` : says}
      errors={errors}
      about={keys}
    >
      <Flex gap="2">
        {keys.map((key, i) => (
          <FigureField
            key={key}
            name={`${i === 0 ? 'below' : 'above'} ${process.dose_unit}`}
            label={i === 0 ? 'Least dose' : 'Greatest dose'}
            value={i === 0 ? floor : ceiling}
            parameter={DOSE}
            error={errors.get(key)}
            onType={(text) => change((now) => ({ ...now, [key]: text.trim() === '' ? null : text }), key)}
            onLeave={settle}
          />
        ))}
      </Flex>
      {keys.map((key) => (
        <Sentences key={key} errors={errors} about={key} />
      ))}
    </Fold>
  )
})
