import { Link, Text } from '@chakra-ui/react'
import { memo } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Preview } from '../../api/types'
import { trialName } from '../../shared/words'

/** Against the trial before on this material: two things changed at once, and nobody knows which one helped. */
export const WhatElseChanged = memo(function WhatElseChanged({ against }: { against: Preview['against'] }) {
  if (!against) return null
  const { trial, number, changes } = against
  return (
    <Text fontSize="14.5px" mt="1" color={changes.length > 1 ? 'emberOnSoft' : 'ink2'} data-against>
      Since{' '}
      <Link asChild textDecoration="underline" color="inherit">
        <RouterLink to={`/trials/${trial}`}>{trialName(number)}</RouterLink>
      </Link>
      {changes.length === 0
        ? ' only ranges changed.'
        : changes.length === 1
          ? ` one thing changed: ${changes[0]}.`
          : ` ${changes.length} things changed: ${changes.join('; ')}.`}
    </Text>
  )
})
