import { Flex, Text } from '@chakra-ui/react'
import type { PhotoScore, Process, Reading } from '../../api/types'
import { Button } from '../../shared/Button'
import { Key } from '../../shared/Parts'
import { outcomeOf } from '../../shared/outcome'
import { inHundred, isOverruled } from './suggestions'

interface PhotoSaysProps {
  photo: PhotoScore | undefined
  reading: Reading | undefined
  process: Process
  words: string[]
  flags: string[]
  onAgree?: () => void
}

const SPOILED: Record<string, string> = {
  glare: 'the light is glaring there',
  shadow: 'a shadow lies there',
  blur: 'the photo is blurred',
  below_alike: 'what lies below looks like the sheet',
  narrow: 'its parts are too narrow to be sure by a photo',
  place_doubtful: 'where exactly it lies is not known',
}

/** The photos' word on a patch, how sure they are, and whether a person said something else. */
export function PhotoSays({ photo, reading, process, words, flags, onAgree }: PhotoSaysProps) {
  const seen = outcomeOf(photo, process)
  if (!photo || seen === null) {
    const missing = flags.includes('outside')
      ? 'This patch is not in the photo: score it by eye, or take the whole plate.'
      : process.passes_through
        ? 'A cut is decided by its back: add a photo of it.'
        : null
    return photo && missing ? (
      <Text fontSize="15px" color="ink2">
        {missing}
      </Text>
    ) : null
  }
  const spoiled = flags.map((flag) => SPOILED[flag]).filter(Boolean)
  const because = spoiled.length > 0 ? `, since ${spoiled.join(' and ')}` : ''
  const sure = photo.confidence === null ? '' : `, ${inHundred(photo.confidence)} in 100 sure`
  const agreed = reading?.said_by === 'person' && outcomeOf(reading, process) === seen
  return (
    <Flex align="center" gap="2" wrap="wrap" fontSize="15px" aria-live="polite">
      <Text flex="1" minW="200px">
        The photos say <b>{words[seen]}</b>
        {sure}
        {because}.{agreed && ' You agreed.'}
        {isOverruled(reading, photo, process) && ` ${reading?.by_name ?? 'Somebody'} saw it otherwise.`}
        {reading?.said_by === 'photo' && ' That counts until you say otherwise.'}
      </Text>
      {onAgree && !agreed && (
        <Button look="quiet" size="sm" height={{ base: '44px', lg: '34px' }} onClick={onAgree}>
          Agree <Key>Enter</Key>
        </Button>
      )}
    </Flex>
  )
}
