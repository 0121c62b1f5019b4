import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import type { Along } from './design'
import { addAxis } from './design'
import type { Change } from './useDesign'
import { useFirstAxis } from './useFirstAxis'

interface AddAxisProps {
  along: Along
  /** What could vary: everything that does not yet. */
  free: Parameter[]
  hold: Design['hold']
  change: Change
}

const WORDS: Record<Along, string> = {
  x: 'vary another along …',
  y: 'vary another up …',
  block_x: 'a third setting, as blocks …',
  block_y: 'a fourth setting …',
}

/** One more setting to vary, on the edge where it would stand. */
export const AddAxis = memo(function AddAxis({ along, free, hold, change }: AddAxisProps) {
  const ask = useFirstAxis()
  if (free.length === 0) return null
  return (
    <select
      className="add-setting"
      aria-label={`Vary another setting: ${WORDS[along].replace(' …', '')}`}
      value=""
      onChange={(event) => {
        const chosen = free.find((parameter) => parameter.key === event.currentTarget.value)
        if (chosen)
          ask(hold, chosen.key, along, (first) =>
            change((design) => addAxis(design, along, chosen.key, first)),
          )
      }}
    >
      <option value="">{WORDS[along]}</option>
      {free.map((parameter) => (
        <option key={parameter.key} value={parameter.key}>
          {parameter.name}
        </option>
      ))}
    </select>
  )
})
