import type { Patch, Scale } from '../../api/types'
import { SvgText } from '../../plate/SvgText'
import { palette } from '../../theme/palette'
import { lettered } from './scoring'
import type { Scores } from './scoring'

interface PatchLettersProps {
  patch: Patch
  scores: Scores
  scales: Scale[]
  overruled: boolean
}

/** Letters on a patch for what was tagged, and a dot where a person overruled the photos. */
export function PatchLetters({ patch, scores, scales, overruled }: PatchLettersProps) {
  const letters = [
    ...lettered(scales).map(({ key, letter, words }) => {
      const degree = Number(scores.values[key] ?? 0)
      // What it turned is no amount of anything.
      return key === 'turned' && degree ? (words[degree] ?? '') : letter.repeat(degree)
    }),
    scores.note ? '*' : '',
  ].filter(Boolean)
  const said = letters.join(' ')
  // As large as the patch has room for, and no larger than its score.
  const wide = 0.55 * said.length + 0.6
  const size = Math.min(patch.height_mm * 0.25, patch.width_mm * 0.25, (patch.width_mm * 0.96) / wide)
  const width = size * wide
  return (
    <>
      {letters.length > 0 && (
        <>
          <rect
            x={patch.width_mm * 0.98 - width}
            y={patch.height_mm * 0.98 - size * 1.15}
            width={width}
            height={size * 1.15}
            rx={size * 0.3}
            fill={palette.card}
            opacity={0.9}
          />
          <SvgText
            x={patch.width_mm * 0.98 - width / 2}
            y={patch.height_mm * 0.98 - size * 0.28}
            size={size}
            weight={600}
            colour={palette.ink}
          >
            {said}
          </SvgText>
        </>
      )}
      {overruled && (
        <circle
          cx={0}
          cy={0}
          r={size * 0.5}
          fill={palette.ember}
          stroke={palette.card}
          strokeWidth={size * 0.15}
        />
      )}
    </>
  )
}
