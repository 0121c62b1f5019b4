import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useMemo } from 'react'
import type { RemarkKind } from '../../api/types'
import { Card, Key, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import type { LogEntry } from './liveRun'

/** What one key or tap notes. */
export function useRemarks(): RemarkKind[] {
  const { remarks } = useShop().inventory
  return useMemo(() => remarks.filter((one) => one.letter !== ''), [remarks])
}

interface RemarkButtonsProps {
  /** The patch it is about: the one that burns, or the active one. */
  patch: string | null
  onRemark: (kind: string) => void
}

export function RemarkButtons({ patch, onRemark }: RemarkButtonsProps) {
  const remarks = useRemarks()
  return (
    <Card p="3">
      <Section title={patch ? `What do you see? (${patch})` : 'What do you see?'}>
        <Grid templateColumns="repeat(3, minmax(0, 1fr))" gap="2">
          {remarks.map(({ key, name, letter }) => (
            <Button key={key} look="quiet" height="44px" px="2" onClick={() => onRemark(key)}>
              <Key>{letter}</Key> {name}
            </Button>
          ))}
        </Grid>
      </Section>
    </Card>
  )
}

const clock = (at: string) => {
  const date = new Date(at)
  return [date.getHours(), date.getMinutes(), date.getSeconds()]
    .map((part) => String(part).padStart(2, '0'))
    .join(':')
}

/** What happened, the latest first. */
export function BurnLog({
  entries,
  onTakeBack,
}: {
  entries: LogEntry[]
  onTakeBack?: (remark: number) => void
}) {
  if (entries.length === 0) return null
  return (
    <Card p="3">
      <Section title="Log">
        <Box as="ul" listStyleType="none" aria-live="polite" maxH="340px" overflowY="auto" tabIndex={0}>
          {entries.map((entry, index) => (
            <Flex
              as="li"
              key={`${entries.length - index} ${entry.at}`}
              gap="2"
              fontSize="14.5px"
              align="baseline"
            >
              <Text as="span" color="ink2" fontVariantNumeric="tabular-nums">
                {clock(entry.at)}
              </Text>
              <Text as="span" flex="1" fontWeight={entry.remark === null ? '400' : '600'}>
                {entry.sentence}
              </Text>
              {entry.remark !== null && onTakeBack && (
                <Button
                  look="link"
                  fontSize="13px"
                  aria-label={`Take back: ${entry.sentence}`}
                  onClick={() => entry.remark !== null && onTakeBack(entry.remark)}
                >
                  take back
                </Button>
              )}
            </Flex>
          ))}
        </Box>
      </Section>
    </Card>
  )
}
