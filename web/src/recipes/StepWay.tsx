import { Text } from '@chakra-ui/react'
import type { Recipe } from '../api/types'

type Step = Recipe['steps'][number]

/** How a step of a recipe goes over its figure, where that is not as usual. */
export function stepWay({ way }: Pick<Step, 'way'>): string {
  const words = (way.hatch ?? []).map(
    ({ line_spacing_mm, hatch_angle_deg }) =>
      `lines ${line_spacing_mm} mm apart at ${hatch_angle_deg}° over it`,
  )
  if (way.one_way) words.push('one way')
  if (way.part === 'both') words.push('then its outline')
  return words.join(', ')
}

/** The same below its settings, and after the last step how often all of them go. */
export function StepWay({ recipe, step }: { recipe: Pick<Recipe, 'rounds' | 'steps'>; step: Step }) {
  const words = stepWay(step)
  const last = step.position === recipe.steps.length
  return (
    <>
      {words && <Text fontWeight="500">{words[0]?.toUpperCase() + words.slice(1)}</Text>}
      {last && recipe.rounds > 1 && (
        <Text fontWeight="600" mt="1">
          All of it {recipe.rounds} times, round after round.
        </Text>
      )}
    </>
  )
}
