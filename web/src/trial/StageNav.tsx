import { NavLink } from 'react-router'
import type { TrialPageData } from '../api/types'
import { burnQuery, useShownBurn } from './shownBurn'
import './stages.css'

export const STAGES = ['plan', 'burn', 'read', 'decide'] as const
export type StageName = (typeof STAGES)[number]

const NAMES: Record<StageName, string> = { plan: 'Plan', burn: 'Burn', read: 'Read', decide: 'Decide' }

/** How far a trial has come, as the number of stages behind it. */
export function reached(page: Pick<TrialPageData, 'stage'>): number {
  return { plan: 0, burn: 1, read: 2, decide: 3, kept: 4 }[page.stage]
}

/** Plan, Burn, Read, Decide: the names of the stages are the buttons. */
export function StageNav({ page, stage }: { page: TrialPageData; stage: StageName }) {
  const done = reached(page)
  const shown = useShownBurn()
  return (
    <nav className="stages" aria-label="Stages">
      {STAGES.map((name, i) => {
        // Reading and deciding need a burned plate.
        const open = i < 2 || page.burns.length > 0
        const className = [i < done ? 'done' : '', name === stage ? 'here' : ''].join(' ')
        return open ? (
          <NavLink
            key={name}
            to={`/trials/${page.id}/${name}${burnQuery(shown)}`}
            className={className}
            aria-current={name === stage ? 'step' : undefined}
          >
            <span className="dot" aria-hidden="true" />
            {NAMES[name]}
          </NavLink>
        ) : (
          <span key={name} className="closed" title="Opens when the plate is burned">
            <span className="dot" aria-hidden="true" />
            {NAMES[name]}
          </span>
        )
      })}
    </nav>
  )
}
