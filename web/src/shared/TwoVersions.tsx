import { Box, Flex, Table, Text } from '@chakra-ui/react'
import { useId, useState } from 'react'
import { Button } from './Button'
import { Card } from './Parts'
import type { Differing } from './differingLines'

interface TwoVersionsProps {
  what: string
  /** Who kept the other version, where it is known. */
  who?: string
  rows: Differing[]
  onTheirs: () => void
  /** Keeps these parts of mine, and theirs of all else. */
  onMine: (parts: ReadonlySet<string>) => void
}

/** Somebody else was faster: both versions side by side, part by part, and one chooses. Nothing is merged behind one's
 * back. */
export function TwoVersions({ what, who, rows, onTheirs, onMine }: TwoVersionsProps) {
  const [theirs, setTheirs] = useState<ReadonlySet<string>>(new Set())
  const mine = rows.map((row) => row.key).filter((key) => !theirs.has(key))
  const choose = (key: string, whose: 'theirs' | 'mine') => {
    const next = new Set(theirs)
    if (whose === 'theirs') next.add(key)
    else next.delete(key)
    setTheirs(next)
  }
  return (
    <Card borderColor="ember" borderWidth="2px" p="4" role="alert" data-conflict>
      <Text fontWeight="600" fontSize="17px">
        {who || 'Somebody'} changed {what} while you were at it.
      </Text>
      <Text color="ink2" mb="2">
        {rows.length > 0 ? 'Where the two differ; choose for each part:' : 'Both say the same.'}
      </Text>
      {rows.length > 0 && (
        <Box overflowX="auto">
          <Table.Root size="sm" variant="line" bg="transparent">
            <Table.Header>
              <Table.Row bg="transparent">
                <Table.ColumnHeader />
                <Table.ColumnHeader color="ink2">Theirs, as it is kept now</Table.ColumnHeader>
                <Table.ColumnHeader color="ink2">Yours, not kept yet</Table.ColumnHeader>
              </Table.Row>
            </Table.Header>
            <Table.Body>
              {rows.map((row) => (
                <Part key={row.key} row={row} mine={!theirs.has(row.key)} onChoose={choose} />
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      )}
      <Flex gap="2" mt="3" wrap="wrap">
        <Button onClick={onTheirs}>Take theirs</Button>
        {theirs.size > 0 && mine.length > 0 ? (
          <Button look="emberLine" onClick={() => onMine(new Set(mine))}>
            Keep as chosen
          </Button>
        ) : (
          <Button look="emberLine" onClick={() => onMine(new Set(rows.map((row) => row.key)))}>
            Keep mine
          </Button>
        )}
      </Flex>
    </Card>
  )
}

interface PartProps {
  row: Differing
  mine: boolean
  onChoose: (key: string, whose: 'theirs' | 'mine') => void
}

function Part({ row, mine, onChoose }: PartProps) {
  const name = useId()
  const cell = (whose: 'theirs' | 'mine', chosen: boolean) => (
    <Table.Cell fontWeight={chosen ? '600' : '400'} whiteSpace="pre-wrap">
      <Flex as="label" gap="2" align="baseline" cursor="pointer" minH="32px">
        <input
          type="radio"
          name={name}
          aria-label={`${row.name}: ${whose}`}
          checked={chosen}
          onChange={() => onChoose(row.key, whose)}
        />
        <span>{row[whose]}</span>
      </Flex>
    </Table.Cell>
  )
  return (
    <Table.Row bg="transparent">
      <Table.Cell color="ink2">{row.name}</Table.Cell>
      {cell('theirs', !mine)}
      {cell('mine', mine)}
    </Table.Row>
  )
}
