import { Flex, Text } from '@chakra-ui/react'
import { flatUrl } from '../../api/photos'
import type { Face, Patch, Photo, Plate } from '../../api/types'
import { PatchCrop } from '../../plate/PatchCrop'

interface LoupeProps {
  plate: Plate
  patch: Patch
  photo: Photo
  face: Face
  caption: string
}

/** The active patch as large as the photo of a face has it. */
export function Loupe({ plate, patch, photo, face, caption }: LoupeProps) {
  return (
    <Flex as="figure" direction="column" gap="1" flex="1" minW="0" maxW="180px">
      <PatchCrop
        href={flatUrl(photo)}
        plate={plate.plate}
        box={patch}
        mirrored={face === 'back'}
        label={`${patch.id} from the ${face}`}
      />
      <Text as="figcaption" fontSize="13.5px" color="ink2">
        {caption}
      </Text>
    </Flex>
  )
}
