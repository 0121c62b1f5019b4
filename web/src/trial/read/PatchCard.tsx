import { Box, Flex, Text } from '@chakra-ui/react'
import { Button } from '../../shared/Button'
import { Card, Key } from '../../shared/Parts'
import { outcomeOf } from '../../shared/outcome'
import { variedKeys } from '../../plate/varied'
import { PatchTitle } from '../PatchTitle'
import { Callipers, KeptText } from './Callipers'
import { Loupe } from './Loupe'
import { MeasuredFigures } from './MeasuredFigures'
import { PhotoSays } from './PhotoSays'
import { ScoreButtons } from './ScoreButtons'
import { ReadBefore } from './Treatment'
import { useReader } from './useRead'

/** The active patch: what it was burned with, how it looks, and how it came out. */
export function PatchCard() {
  const { page, plate, patch, wasBurned, toggleNotBurned } = useReader()
  return (
    <Card p="4">
      <PatchTitle patch={patch} process={page.process} varied={variedKeys(plate.trial)} compact />
      {page.repeated[patch.id] && <Text fontWeight="600">{page.repeated[patch.id]}</Text>}
      <ReadBefore patch={patch.id} />
      <PatchInPhotos />
      <Box mt="3">
        {wasBurned ? (
          <PatchScores />
        ) : (
          <>
            <Text>{patch.id} was not burned.</Text>
            {toggleNotBurned && (
              <Button look="link" size="sm" mt="2" onClick={toggleNotBurned}>
                It was burned after all <Key>o</Key>
              </Button>
            )}
          </>
        )}
      </Box>
    </Card>
  )
}

function PatchInPhotos() {
  const { plate, patch, process, photos } = useReader()
  const { front, back } = photos.read
  if (!front && !back) return null
  return (
    <Flex gap="2.5" mt="2">
      {front && <Loupe plate={plate} patch={patch} photo={front} face="front" caption="front" />}
      {back && (
        <Loupe
          plate={plate}
          patch={patch}
          photo={back}
          face="back"
          caption={process.passes_through ? 'back, which decides' : 'back'}
        />
      )}
      <MeasuredFigures
        process={process}
        front={photos.figuresOf(patch.id, 'front')}
        back={photos.figuresOf(patch.id, 'back')}
        card={front?.card ?? false}
      />
    </Flex>
  )
}

function PatchScores() {
  const reader = useReader()
  const { process, asked, active, word, photos } = reader
  return (
    <ScoreButtons
      process={process}
      scales={reader.scales}
      words={asked.words}
      question={asked.question}
      scores={reader.scores}
      together={reader.together.length}
      suggested={outcomeOf(word, process)}
      onNotBurned={reader.toggleNotBurned}
      onScore={reader.giveChanged}
    >
      <PhotoSays
        photo={word}
        reading={reader.readings.readingOf(active)}
        process={process}
        words={asked.words}
        flags={photos.figuresOf(active, process.deciding_face)?.flags ?? []}
        onAgree={reader.mayScore ? reader.agree : undefined}
      />
    </ScoreButtons>
  )
}

/** What is typed of the active patch: lengths off the callipers, and a note. */
export function TypedCard() {
  const { active, scales, scores, mayScore, give, giveChanged } = useReader()
  const typed = scales.filter((scale) => scale.entry === 'typed')
  if (!mayScore) return null
  return (
    <Card p="3">
      <Flex
        gap="3"
        wrap="wrap"
        align="flex-end"
        key={[active, ...typed.map((scale) => scores.values[scale.key])].join(' ')}
      >
        {typed.map((scale) => (
          <Callipers
            key={scale.key}
            scale={scale}
            scores={scores}
            onKeep={(after) => giveChanged(after, false)}
          />
        ))}
        <KeptText
          label="Note"
          value={scores.note}
          placeholder="What else you see"
          onKeep={(note) => give((before) => ({ ...before, note }), false)}
        />
      </Flex>
    </Card>
  )
}
