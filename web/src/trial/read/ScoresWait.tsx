import { Flex, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import { Link as RouterLink, useLocation } from 'react-router'
import { useShop } from '../../shared/ShopContext'
import { trialName } from '../../shared/words'
import { trialsWaiting } from './keptScores'
import type { Scored } from './keptScores'

/** Scores given without a connection wait in this browser, and their page sends them: said wherever else one is. */
export function ScoresWait() {
  const { me } = useShop()
  const { pathname } = useLocation()
  const [trials, setTrials] = useState<Scored[]>([])
  useEffect(() => {
    const look = () => setTrials(trialsWaiting(me.id))
    look()
    addEventListener('online', look)
    addEventListener('storage', look)
    return () => {
      removeEventListener('online', look)
      removeEventListener('storage', look)
    }
  }, [me.id, pathname])
  const [first] = trials.filter((trial) => !pathname.startsWith(`/trials/${trial.id}/read`))
  if (first === undefined) return null
  return (
    <Flex
      role="status"
      gap="3"
      px={{ base: '4', md: '7' }}
      py="2"
      bg="steelSoft"
      color="steel"
      align="center"
      wrap="wrap"
      _print={{ display: 'none' }}
    >
      <Text fontWeight="600">Scores of {trialName(first.number)} wait in this browser.</Text>
      <RouterLink to={`/trials/${first.id}/read`} style={{ textDecoration: 'underline', fontWeight: 600 }}>
        Send them
      </RouterLink>
    </Flex>
  )
}
