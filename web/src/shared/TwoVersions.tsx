import { Box, Flex, Table, Text } from '@chakra-ui/react'
import { Button } from './Button'
import { Card } from './Parts'

interface TwoVersionsProps {
  what: string
  rows: { name: string; theirs: string; mine: string }[]
  onTheirs: () => void
  onMine: () => void
}

/** Somebody else was faster: both versions side by side, and one chooses. Nothing is merged behind one's back. */
export function TwoVersions({ what, rows, onTheirs, onMine }: TwoVersionsProps) {
  return (
    <Card borderColor="ember" borderWidth="2px" p="4" role="alert" data-conflict>
      <Text fontWeight="600" fontSize="17px">
        Somebody changed {what} while you were at it.
      </Text>
      <Text color="ink2" mb="2">
        {rows.length > 0 ? 'Where the two differ:' : 'Both say the same.'}
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
                <Table.Row key={row.name} bg="transparent">
                  <Table.Cell color="ink2">{row.name}</Table.Cell>
                  <Table.Cell fontWeight="600" whiteSpace="pre-wrap">
                    {row.theirs}
                  </Table.Cell>
                  <Table.Cell fontWeight="600" whiteSpace="pre-wrap">
                    {row.mine}
                  </Table.Cell>
                </Table.Row>
              ))}
            </Table.Body>
          </Table.Root>
        </Box>
      )}
      <Flex gap="2" mt="3" wrap="wrap">
        <Button onClick={onTheirs}>Take theirs</Button>
        <Button look="emberLine" onClick={onMine}>
          Keep mine
        </Button>
      </Flex>
    </Card>
  )
}
