import { Box, CloseButton, Dialog, Flex, Portal, Text } from '@chakra-ui/react'
import { memo, useEffect, useState } from 'react'
import { Key } from './Parts'

export interface KeyHint {
  keys: string[]
  does: string
}

const isTyping = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.matches('input, textarea, select, [contenteditable]')

/** `?` shows what the keys of this page do. */
export const KeysHelp = memo(function KeysHelp({ hints }: { hints: KeyHint[] }) {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    // Whichever keys a keyboard needs for it, what counts is that a question mark comes out.
    const press = (event: KeyboardEvent) => {
      if (event.key === '?' && !isTyping(event.target)) setOpen(true)
    }
    document.addEventListener('keydown', press)
    return () => document.removeEventListener('keydown', press)
  }, [])
  const everywhere: KeyHint[] = [
    { keys: ['/'], does: 'search the book' },
    { keys: ['?'], does: 'this list' },
  ]
  return (
    <Dialog.Root open={open} onOpenChange={(change) => setOpen(change.open)} size="sm">
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
})
