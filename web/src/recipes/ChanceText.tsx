import { Text } from '@chakra-ui/react'
import type { Chance } from '../api/types'
import { counted, patchesOf } from '../shared/words'
import { inHundred, intervalInHundred } from './aims'

/** On how many fresh sheets a recipe is expected to hold, and what that rests on. */
export function ChanceText({ chance }: { chance: Chance }) {
  return (
    <>
      <Text fontSize="18px" fontWeight="600">
        Holds on {inHundred(chance.value)} of 100 fresh sheets ({intervalInHundred(chance.low, chance.high)}).
      </Text>
      <Text color="ink2" fontSize="14.5px">
        By {patchesOf(chance.patches)} on {counted(chance.plates, 'plate')}
        {chance.taps > 0 && ` and ${counted(chance.taps, 'tap')} since`}.
      </Text>
    </>
  )
}
