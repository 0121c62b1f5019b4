import { Flex } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import { Button } from '../../shared/Button'
import { Key } from '../../shared/Parts'
import { useReader } from './useRead'

/** Where one goes from a patch: round, beside others, back, on, and to Decide. */
export function ReadActions() {
  const { page, flip, beside, readings, photos, wanted, undo, nextUnsure } = useReader()
  const allRead = wanted.length === 0
  return (
    <Flex gap="2" wrap="wrap">
      <Button look="quiet" onClick={flip}>
        Flip <Key>x</Key>
      </Button>
      <Button asChild look="quiet">
        <RouterLink to={beside}>
          Compare <Key>k</Key>
        </RouterLink>
      </Button>
      <Button look="quiet" disabled={!readings.canUndo} onClick={undo}>
        Undo <Key>u</Key>
      </Button>
      {!allRead && (
        <Button look="ember" ml="auto" onClick={nextUnsure}>
          {photos.says.size > 0 ? 'Next unsure' : 'Next'} <Key>n</Key>
        </Button>
      )}
      <Button asChild look={allRead ? 'ember' : 'emberLine'} ml={allRead ? 'auto' : '0'}>
        <RouterLink to={`/trials/${page.id}/decide`}>Decide</RouterLink>
      </Button>
    </Flex>
  )
}
