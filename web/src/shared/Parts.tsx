import { Button } from './Button'
import { Box, Flex, Heading, Skeleton, Text } from '@chakra-ui/react'
import type { BoxProps } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { ProblemError } from '../api/client'
import type { Standing } from '../api/types'

/** A surface. */
export function Card({ children, ...box }: BoxProps) {
  return (
    <Box bg="card" borderWidth="1px" borderColor="line" borderRadius="card" p="4" {...box}>
      {children}
    </Box>
  )
}

/** The small title of a section. */
export function Section({ title, children, ...box }: BoxProps & { title: string }) {
  return (
    <Box as="section" {...box}>
      <Text
        as="h2"
        fontSize="12.5px"
        fontWeight="600"
        letterSpacing="0.06em"
        textTransform="uppercase"
        color="ink2"
        mb="2"
      >
        {title}
      </Text>
      {children}
    </Box>
  )
}

export function PageTitle({ children, under }: { children: ReactNode; under?: ReactNode }) {
  return (
    <Box mb="4">
      <Heading as="h1" fontSize="25px" lineHeight="1.2" fontWeight="600">
        {children}
      </Heading>
      {under && (
        <Box color="ink2" fontSize="14.5px" mt="0.5">
          {under}
        </Box>
      )}
    </Box>
  )
}

/** A number one can read from two metres, with its unit small beside it. */
export function Numeral({
  value,
  unit,
  others,
  size = 'l',
  color,
}: {
  value: string
  unit: string
  others?: string
  size?: 'xs' | 's' | 'm' | 'l'
  color?: string
}) {
  const px = { xs: '22px', s: '30px', m: '44px', l: '72px' }[size]
  return (
    <Flex as="span" display="inline-flex" align="baseline" gap="1.5" title={others}>
      <Text
        as="span"
        fontFamily="numeral"
        fontWeight="700"
        color={color}
        fontSize={px}
        lineHeight="1"
        letterSpacing="-0.01em"
      >
        {value}
      </Text>
      <Text as="span" color="ink2" fontSize={size === 'l' ? '18px' : '15px'}>
        {unit}
      </Text>
    </Flex>
  )
}

const STANDING_LOOKS: Record<Standing, { bg: string; color: string }> = {
  proven: { bg: 'mossSoft', color: 'moss' },
  tried: { bg: 'paper', color: 'ink2' },
  heard: { bg: 'steelSoft', color: 'steel' },
  estimate: { bg: 'steelSoft', color: 'steel' },
  doubtful: { bg: 'emberSoft', color: 'emberOnSoft' },
  retired: { bg: 'line', color: 'ink' },
}

export function StandingBadge({ standing }: { standing: Standing }) {
  const looks = STANDING_LOOKS[standing]
  return (
    <Box
      as="span"
      display="inline-block"
      px="2"
      py="0.5"
      borderRadius="6px"
      fontSize="13.5px"
      fontWeight="600"
      borderWidth={standing === 'tried' ? '1px' : '0'}
      borderColor="lineStrong"
      {...looks}
    >
      {standing}
    </Box>
  )
}

export function Failure({ error, retry }: { error: unknown; retry?: () => void }) {
  const sentence = error instanceof Error ? error.message : 'Something went wrong.'
  const title = error instanceof ProblemError ? error.title : 'That did not work'
  return (
    <Card borderColor="ember" bg="emberSoft" role="alert">
      <Text fontWeight="600" color="emberOnSoft">
        {title}
      </Text>
      <Text>{sentence}</Text>
      {retry && (
        <Button look="quiet" mt="3" onClick={retry}>
          Try again
        </Button>
      )}
    </Card>
  )
}

/** Grey shapes while something is on its way; they appear only when it takes a moment. */
export function Waiting({ what, height = '120px' }: { what: string; height?: string }) {
  return (
    <Box
      role="status"
      aria-label={`Waiting for ${what}`}
      animation="fade-in"
      animationDelay="300ms"
      animationFillMode="backwards"
      animationDuration="200ms"
    >
      <Skeleton height={height} borderRadius="card" />
    </Box>
  )
}

export function Nothing({ children }: { children: ReactNode }) {
  return (
    <Card borderStyle="dashed" borderColor="lineStrong" color="ink2" bg="transparent" data-nothing="">
      {children}
    </Card>
  )
}

/** A key as it is printed on the keyboard. */
export function Key({ children }: { children: ReactNode }) {
  return (
    <Box
      as="kbd"
      display="inline-block"
      minW="5"
      textAlign="center"
      px="1"
      fontFamily="body"
      fontSize="12px"
      color="ink2"
      bg="card"
      borderWidth="1px"
      borderColor="lineStrong"
      borderRadius="5px"
    >
      {children}
    </Box>
  )
}
