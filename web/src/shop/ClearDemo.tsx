import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../api/client'
import { Button } from '../shared/Button'
import { Card } from '../shared/Parts'
import { sayFailed } from '../shared/toast'

/** One click, and one to be sure, from the demo to a shop of one's own. */
export function ClearDemo() {
  const [sure, setSure] = useState(false)
  const clear = useMutation({
    mutationFn: () => answer(api.POST('/api/door/clear-demo', {})),
    // A fresh page keeps nothing of what was shown.
    onSuccess: () => location.assign('/'),
    onError: sayFailed,
  })
  return (
    <Card mt="8" p="4" borderStyle="dashed" bg="transparent">
      <Flex gap="4" align="center" wrap="wrap">
        <Box flex="1" minW="240px">
          <Text fontWeight="600">Seen enough of the demo?</Text>
          <Text color="ink2" fontSize="15px">
            Clearing it takes everything made up away and lets you found your own shop in its place. A copy of
            the demo stays in the data folder.
          </Text>
        </Box>
        {sure ? (
          <Flex gap="2">
            <Button look="ember" loading={clear.isPending} onClick={() => clear.mutate()}>
              Clear it
            </Button>
            <Button onClick={() => setSure(false)}>Cancel</Button>
          </Flex>
        ) : (
          <Button onClick={() => setSure(true)}>Clear the demo shop</Button>
        )}
      </Flex>
    </Card>
  )
}
