import { Box, Flex, Text } from '@chakra-ui/react'
import { useEffect, useRef } from 'react'
import { useNavigate } from 'react-router'
import { flatUrl } from '../../api/photos'
import { Legend } from '../../plate/Legend'
import { OutcomePlate, OutcomeRail } from '../OutcomePlate'
import { PatchLetters } from './PatchLetters'
import { FoundBy } from './PhotosCard'
import { useUndoKeys } from '../../shared/useUndoKeys'
import { readKeys } from './readKeys'
import { useReader } from './useRead'

/** The plate with the photo under it and what was said of each patch over it; here the keys are heard. */
export function PlateToRead() {
  const reader = useReader()
  const navigate = useNavigate()
  const focus = useRef<SVGSVGElement>(null)
  useUndoKeys(reader.undo)
  useEffect(() => focus.current?.focus({ preventScroll: true }), [])
  const { page, plate, process, words, wordsOf, face, readings, photos, wanted, active } = reader
  const shown = photos.read[face]
  const outcomes = {
    ...{ page, plate, process, words, wordsOf, active },
    scoresFor: readings.scoresFor,
    onPick: reader.pick,
  }
  return (
    <Box minW="0">
      <OutcomePlate
        {...outcomes}
        ref={focus}
        label={`The ${face} of plate ${page.code}. Digits score, arrows walk.`}
        onKeyDown={readKeys(reader, () => void navigate(reader.beside))}
        mirrored={face === 'back'}
        photo={shown && flatUrl(shown)}
        selected={reader.selected}
        unsure={(id) => photos.says.has(id) && wanted.includes(id)}
        over={(one) => (
          <PatchLetters
            patch={one}
            scores={readings.scoresFor(one.id)}
            scales={reader.scales}
            overruled={reader.isOverruled(one.id)}
          />
        )}
      />
      <Flex justify="space-between" align="center" mt="2" gap="3" wrap="wrap">
        <Legend words={words} />
        <Text fontSize="14px" color="ink2">
          {face === 'front' ? 'seen from the front' : 'seen from the back'}
          {shown && <FoundBy photo={shown} />}
        </Text>
      </Flex>
      <OutcomeRail {...outcomes} />
    </Box>
  )
}
