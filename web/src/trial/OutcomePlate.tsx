import { Box } from '@chakra-ui/react'
import type { KeyboardEvent, ReactNode, Ref } from 'react'
import type { Patch, Plate as PlateData, Process, TrialPageData } from '../api/types'
import { DoseRail } from '../plate/DoseRail'
import { CornerGlyph, OutcomeGlyph, Selected } from '../plate/PatchMarks'
import { Plate } from '../plate/Plate'
import type { PickEvent } from '../plate/Plate'
import { outcomeColour } from '../plate/scales'
import { palette } from '../theme/palette'
import { PlateBox } from './PlateBox'
import { outcomeOf } from '../shared/outcome'
import type { Scores } from './read/scoring'

interface OutcomeProps {
  page: TrialPageData
  plate: PlateData
  process: Process
  words: string[]
  /** The words of a patch, where its own may be others. */
  wordsOf?: (values: Scores['values']) => { words: string[] }
  scoresFor: (id: string) => Scores
  active: string | null
  onPick: (id: string, event?: PickEvent) => void
}

interface OutcomePlateProps extends OutcomeProps {
  label: string
  onKeyDown: (event: KeyboardEvent) => void
  /** Patches tinted by outcome, as a map; bare they are easier to compare with the plate in hand. */
  tinted?: boolean
  mirrored?: boolean
  /** The flattened photo of the face one looks at. */
  photo?: string
  /** Patches that are scored together with the active one. */
  selected?: ReadonlySet<string>
  /** Patches the photos are not sure of. */
  unsure?: (id: string) => boolean
  /** What is expected between the patches, drawn under them, and what lies above all of it. */
  map?: { below: ReactNode; above: ReactNode }
  /** What lies over the glyph. */
  over: (patch: Patch) => ReactNode
  /** What is added to a patch's name when it is read aloud. */
  more?: (patch: Patch) => string
  ref?: Ref<SVGSVGElement>
}

function outcomeFill({ process, words, scoresFor }: Pick<OutcomeProps, 'process' | 'words' | 'scoresFor'>) {
  return ({ id }: { id: string }) => {
    const outcome = outcomeOf(scoresFor(id), process)
    return outcome === null ? palette.card : outcomeColour(outcome, words.length - 1)
  }
}

/** The burned plate with one outcome glyph a patch, for reading and deciding. */
export function OutcomePlate({
  ref,
  label,
  onKeyDown,
  tinted,
  mirrored,
  photo,
  selected,
  unsure,
  map,
  over,
  more,
  ...shared
}: OutcomePlateProps) {
  const { page, plate, process, words, wordsOf, scoresFor, active, onPick } = shared
  const said = (patch: Patch) => {
    if (page.not_burned.includes(patch.id)) return 'not burned'
    const scores = scoresFor(patch.id)
    const outcome = outcomeOf(scores, process)
    if (outcome !== null) return (wordsOf?.(scores.values).words ?? words)[outcome]
    return scores.cannot_tell ? "can't tell" : 'not read'
  }
  const fill = outcomeFill(shared)
  // Nothing stands on a figure that has no room for a word.
  const intricate = plate.drawing.figures[0]?.word_room_mm === 0
  const Glyph = photo || intricate ? CornerGlyph : OutcomeGlyph
  return (
    <PlateBox plate={plate} around={320}>
      <Plate
        ref={ref}
        plate={plate}
        texts={page.burned_texts}
        label={label}
        below={map?.below}
        above={map?.above}
        fill={map ? () => 'none' : tinted ? fill : () => (photo ? 'none' : palette.card)}
        photo={photo}
        name={(patch) => `${patch.id}, ${said(patch)}${more?.(patch) ?? ''}`}
        active={active}
        onPick={onPick}
        onKeyDown={onKeyDown}
        mirrored={mirrored}
        over={(patch) =>
          patch.burn && (
            <>
              {selected?.has(patch.id) && <Selected width={patch.width_mm} height={patch.height_mm} />}
              <Glyph
                {...(intricate && { share: 0.42 })}
                width={patch.width_mm}
                height={patch.height_mm}
                outcome={outcomeOf(scoresFor(patch.id), process)}
                unsure={scoresFor(patch.id).cannot_tell || unsure?.(patch.id)}
                notBurned={page.not_burned.includes(patch.id)}
                most={words.length - 1}
              />
              {over(patch)}
            </>
          )
        }
      />
    </PlateBox>
  )
}

/** What was burned, at the dose it got, coloured by how it came out. */
export function OutcomeRail({ page, process, words, scoresFor, active, onPick }: OutcomeProps) {
  const ticks = page.observed
    .filter(({ state }) => state !== 'not_burned' && state !== 'left_out')
    .map(({ patch, dose }) => ({ id: patch, dose }))
  return (
    <Box mt="2">
      <DoseRail
        ticks={ticks}
        unit={process.dose_unit}
        fill={outcomeFill({ process, words, scoresFor })}
        active={active}
        onPick={onPick}
        label="Doses of all patches, coloured by how they came out"
      />
    </Box>
  )
}
