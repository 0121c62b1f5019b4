import { Flex, Text } from '@chakra-ui/react'
import { useEffect, useState } from 'react'
import type { ReactNode } from 'react'
import { Link as RouterLink, useLocation } from 'react-router'
import { useOnline } from '../../shared/online'
import { useShop } from '../../shared/ShopContext'
import { trialName } from '../../shared/words'
import { trialsWaiting } from './keptScores'
import type { Scored } from './keptScores'

/** Under the top bar: that there is no connection; and once there is, that scores given without one wait in this browser
 * for their page, which sends them. */
export function Connection() {
  const { me } = useShop()
  const { pathname } = useLocation()
  const online = useOnline()
  const [trials, setTrials] = useState<Scored[]>([])
  useEffect(() => {
    const look = () => setTrials(trialsWaiting(me.id))
    look()
    addEventListener('storage', look)
    return () => removeEventListener('storage', look)
  }, [me.id, pathname, online])
  if (!online)
    return (
      <Strip>
        <Text fontWeight="600">There is no connection.</Text>
        <Text>What you score is kept in this browser; other pages come when it is back.</Text>
      </Strip>
    )
  const [first] = trials.filter((trial) => !pathname.startsWith(`/trials/${trial.id}/read`))
  if (first === undefined) return null
  return (
    <Strip>
      <Text fontWeight="600">Scores of {trialName(first.number)} wait in this browser.</Text>
      <RouterLink to={`/trials/${first.id}/read`} style={{ textDecoration: 'underline', fontWeight: 600 }}>
        Send them
      </RouterLink>
    </Strip>
  )
}

function Strip({ children }: { children: ReactNode }) {
  return (
    <Flex
      role="status"
      columnGap="3"
      px={{ base: '4', md: '7' }}
      py="2"
      bg="steelSoft"
      color="steel"
      align="center"
      wrap="wrap"
      _print={{ display: 'none' }}
    >
      {children}
    </Flex>
  )
}
