import { Box, Text } from '@chakra-ui/react'
import { Sheet } from './Sheet'

const RULES = [
  'Print it at its true size (no fitting to the page), on matt paper, without any improving of colours. Print two: one gets lost.',
  'Lay it flat beside the plate, in the same light, and take both in one photo. Neither a shadow nor a glare may fall on it.',
  'Its code is found in the photo; its grey steps undo what the phone did to the tones, and the colour of the light.',
  'Keep it in the dark: paper and toner fade. Print another when it is stained.',
]

/** The reference card on paper, with what to do with it. */
export function PrintReferenceCard() {
  return (
    <Sheet>
      <Text as="h1" fontSize="26px" fontWeight="700" mb="4">
        Reference card for photos of plates
      </Text>
      <img
        src="/api/reference-card"
        alt="Reference card: a code, and six grey steps on either side of it, from light to dark"
        style={{ width: '95mm', height: '22mm', outline: '0.2mm dashed' }}
      />
      <Box as="ol" pl="5" mt="5" fontSize="16px" lineHeight="1.5" listStyleType="decimal" maxW="150mm">
        {RULES.map((rule) => (
          <li key={rule}>{rule}</li>
        ))}
      </Box>
      <Text mt="4" color="ink2" fontSize="14.5px">
        The card is 95 mm long. If yours is not, the printer scaled it; it works all the same, as long as its
        greys are right.
      </Text>
    </Sheet>
  )
}
