import { Box, CloseButton, Flex, Text, chakra } from '@chakra-ui/react'
import { useEffect, useId, useRef } from 'react'
import type { KeyHint } from './KeysHelp'
import { Key } from './Parts'

/** The list of keys; it comes only when it is asked for. The browser's own dialog keeps the focus and hears Escape. */
export function KeysDialog({ hints, onClose }: { hints: KeyHint[]; onClose: () => void }) {
  const dialog = useRef<HTMLDialogElement>(null)
  const title = useId()
  useEffect(() => {
    const shown = dialog.current
    if (shown && !shown.open) shown.showModal()
    // A press beside it closes it: what is outside of its content is the dialog itself.
    const beside = (event: MouseEvent) => event.target === shown && shown?.close()
    shown?.addEventListener('click', beside)
    return () => shown?.removeEventListener('click', beside)
  }, [])
  const everywhere: KeyHint[] = [
    { keys: ['/'], does: 'search the book' },
    { keys: ['?'], does: 'this list' },
  ]
  return (
    <chakra.dialog
      ref={dialog}
      aria-labelledby={title}
      onClose={onClose}
      m="auto"
      mt="12vh"
      p="0"
      width="min(448px, calc(100vw - 32px))"
      bg="card"
      color="ink"
      borderRadius="card"
      borderWidth="1px"
      borderColor="line"
      _backdrop={{ bg: 'blackAlpha.500' }}
    >
      <Box p="6">
        <Flex justify="space-between" align="center" mb="3">
          <Text as="h2" id={title} fontSize="18px" fontWeight="600">
            Keys of this page
          </Text>
          <CloseButton size="sm" aria-label="Close" onClick={() => dialog.current?.close()} />
        </Flex>
        {[...hints, ...everywhere].map((hint) => (
          <Flex key={hint.does} gap="3" py="1" align="baseline">
            <Box width="110px" flexShrink="0">
              {hint.keys.map((key) => (
                <Box as="span" key={key} mr="1">
                  <Key>{key}</Key>
                </Box>
              ))}
            </Box>
            <Text>{hint.does}</Text>
          </Flex>
        ))}
      </Box>
    </chakra.dialog>
  )
}
