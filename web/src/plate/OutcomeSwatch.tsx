import { palette } from '../theme/palette'
import { outcomeColour } from './scales'

/** How a mark came out, as a small square of its shade; crossed where no plate of ours tells. */
export function OutcomeSwatch({ outcome, most }: { outcome: number | null; most: number }) {
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true" style={{ flexShrink: 0 }}>
      <rect
        x="0.5"
        y="0.5"
        width="23"
        height="23"
        rx="5"
        fill={outcome === null ? 'none' : outcomeColour(outcome, most)}
        stroke={palette.control}
        strokeDasharray={outcome === null ? '3 3' : undefined}
      />
    </svg>
  )
}
