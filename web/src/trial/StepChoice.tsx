import type { PageStep, TrialPageData } from '../api/types'
import { Choice } from '../shared/Fields'
import { useShop } from '../shared/ShopContext'
import { useAddress } from '../shared/useAddress'

/** Which of several steps is read and decided; those that work the same ground are read as one. */
export function StepChoice({ page }: { page: TrialPageData }) {
  const [, setSearch] = useAddress()
  const { inventory } = useShop()
  const shown = page.steps.find((one) => one.shown)
  if (page.steps.length < 2 || !shown) return null
  const name = ({ name: own, process }: PageStep) => {
    const verb = inventory.processes.find((one) => one.key === process)?.name ?? own
    return own === verb.toLowerCase() ? verb : own
  }
  const together = (step: PageStep) =>
    page.steps.filter((one) => one.read_as === step.read_as && one.step !== step.step).map(name)
  return (
    <Choice
      label="Step"
      value={String(shown.step)}
      options={page.steps.map((step) => ({
        value: String(step.step),
        label: `${step.step} ${name(step)}${together(step).length > 0 ? `, with ${together(step).join(' and ')}` : ''}`,
      }))}
      onPick={(step) =>
        setSearch((before) => {
          before.set('step', step)
          return before
        })
      }
    />
  )
}
