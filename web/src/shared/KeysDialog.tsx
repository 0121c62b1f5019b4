import { Box, CloseButton, Dialog, Flex, Portal, Text } from '@chakra-ui/react'
import type { KeyHint } from './KeysHelp'
import { Key } from './Parts'

/** The list of keys; it comes only when it is asked for. */
export function KeysDialog({ hints, onClose }: { hints: KeyHint[]; onClose: () => void }) {
  const everywhere: KeyHint[] = [
    { keys: ['/'], does: 'search the book' },
    { keys: ['?'], does: 'this list' },
  ]
  return (
    <Dialog.Root open onOpenChange={(change) => !change.open && onClose()} size="sm">
      <Portal>
        <Dialog.Backdrop />
        <Dialog.Positioner>
          <Dialog.Content bg="card" borderRadius="card">
            <Dialog.Header>
              <Dialog.Title>Keys of this page</Dialog.Title>
            </Dialog.Header>
            <Dialog.Body pb="6">
              {[...hints, ...everywhere].map((hint) => (
                <Flex key={hint.does} gap="3" py="1" align="baseline">
                  <Box minW="110px">
                    {hint.keys.map((key) => (
                      <Box as="span" key={key} mr="1">
                        <Key>{key}</Key>
                      </Box>
                    ))}
                  </Box>
                  <Text>{hint.does}</Text>
                </Flex>
              ))}
            </Dialog.Body>
            <Dialog.CloseTrigger asChild>
              <CloseButton size="sm" aria-label="Close" />
            </Dialog.CloseTrigger>
          </Dialog.Content>
        </Dialog.Positioner>
      </Portal>
    </Dialog.Root>
  )
}
