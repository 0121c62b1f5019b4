import type { Patch, Plate } from '../api/types'
import { palette } from '../theme/palette'
import { doseColour, doseRange } from './scales'
import { useFigures } from './useFigures'
import { doseOf } from './DoseRail'
import { plateOfStep, stepCount } from './ofStep'
import { useMemo } from 'react'

interface OtherStepsProps {
  plate: Plate
  patch: Patch
  /** All of its steps, tinted by their dose; else the others as outlines. */
  all: boolean
}

/** What the other steps of a patch draw or fill: their figures as outlines, or tinted by their own dose. */
export function OtherSteps({ plate, patch, all }: OtherStepsProps) {
  const figures = useFigures(plate)
  const seen = useStepsOf(plate)
  const width = Math.min(patch.width_mm, patch.height_mm) * 0.03
  if (!patch.burn) return null
  return (
    <g transform={`translate(0 ${patch.height_mm}) scale(1 -1)`} pointerEvents="none">
      {seen.map(({ number, fills, range, byId }) => {
        const one = byId.get(patch.id)
        if ((number === plate.judged && !all) || !one) return null
        const colour = all ? doseColour(doseOf(one), range) : palette.ink3
        return (
          <path
            key={number}
            d={figures(one).face}
            fill={all && fills ? colour : 'none'}
            stroke={colour}
            strokeWidth={all && !fills ? 2.5 * width : width}
            strokeDasharray={all ? undefined : `${width * 3} ${width * 2}`}
          />
        )
      })}
    </g>
  )
}

/** The patches of a plate by each of its steps, with the range of their doses. */
function useStepsOf(plate: Plate) {
  return useMemo(
    () =>
      Array.from({ length: stepCount(plate) }, (_, number) => {
        const { patches } = plateOfStep(plate, number)
        return {
          number,
          fills: patches[0]?.dose_j_mm2 !== null && patches[0]?.dose_j_mm2 !== undefined,
          range: doseRange(patches.map(doseOf)),
          byId: new Map(patches.map((one) => [one.id, one])),
        }
      }),
    [plate],
  )
}
