import { memo } from 'react'
import type { Head, Parameter } from '../../api/types'
import type { Along } from './design'
import { addAxis } from './design'
import type { Change } from './useDesign'

interface AddAxisProps {
  along: Along
  /** What could vary: everything that does not yet. */
  free: Parameter[]
  head: Head
  change: Change
}

const WORDS: Record<Along, string> = {
  x: 'vary another along …',
  y: 'vary another up …',
  block_x: 'a third setting, as blocks …',
  block_y: 'a fourth setting …',
}

/** One more setting to vary, on the edge where it would stand. */
export const AddAxis = memo(function AddAxis({ along, free, head, change }: AddAxisProps) {
  if (free.length === 0) return null
  return (
    <select
      className="add-setting"
      aria-label={`Vary another setting: ${WORDS[along].replace(' …', '')}`}
      value=""
      onChange={(event) => {
        const chosen = free.find((parameter) => parameter.key === event.currentTarget.value)
        if (chosen) change((design) => addAxis(design, along, chosen, head))
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
