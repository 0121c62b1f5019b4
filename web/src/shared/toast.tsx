import { Box, Flex, Text } from '@chakra-ui/react'
import { X } from 'lucide-react'
import { useEffect, useLayoutEffect, useRef, useState, useSyncExternalStore } from 'react'

/** What is said in passing: that something was done, and how to take it back, or that it failed. */

interface Said {
  id: number
  sentence: string
  failed: boolean
  undo?: () => void
  /** How long it stays, in ms, while nobody points at it. */
  lasts: number
}

let said: readonly Said[] = []
let count = 0
const listeners = new Set<() => void>()

function tell(next: readonly Said[]) {
  said = next
  for (const listener of listeners) listener()
}

const say = (one: Omit<Said, 'id'>) => tell([...said, { ...one, id: ++count }].slice(-3))
const dismiss = (id: number) => tell(said.filter((one) => one.id !== id))

/** Says that something failed, in the server's own sentence. */
export function sayFailed(error: unknown) {
  const sentence = error instanceof Error ? error.message : 'Something went wrong.'
  say({ sentence, failed: true, lasts: 9000 })
}

/** Says that something was done, and offers to take it back where that can be. */
export function sayDone(sentence: string, undo?: () => void) {
  say({ sentence, failed: false, undo, lasts: undo ? 9000 : 4000 })
}

const ROOM = '--toast-room'

function makeRoom(region: HTMLElement | null) {
  document.documentElement.style.setProperty(ROOM, `${region?.offsetHeight ?? 0}px`)
}

/** At the top, and the page makes room for it: it never lies over anything one could press. */
export function Toasts() {
  const all = useSyncExternalStore(
    (listener) => {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    () => said,
  )
  const region = useRef<HTMLDivElement>(null)
  useLayoutEffect(() => makeRoom(region.current), [all])
  // A font that comes later, or a narrower window, makes it higher.
  useEffect(() => {
    if (!region.current) return
    const observer = new ResizeObserver(() => makeRoom(region.current))
    observer.observe(region.current)
    return () => observer.disconnect()
  }, [])
  return (
    <Box
      ref={region}
      position="fixed"
      top="0"
      left="0"
      right="0"
      zIndex="toast"
      role="region"
      aria-label="Notices"
      _print={{ display: 'none' }}
    >
      {all.map((one) => (
        <Toast key={one.id} one={one} />
      ))}
    </Box>
  )
}

function Toast({ one }: { one: Said }) {
  const [pointed, setPointed] = useState(false)
  useEffect(() => {
    if (pointed) return
    const timer = setTimeout(() => dismiss(one.id), one.lasts)
    return () => clearTimeout(timer)
  }, [one, pointed])
  return (
    <Flex
      role={one.failed ? 'alert' : 'status'}
      data-toast={one.failed ? 'failed' : 'done'}
      bg={one.failed ? 'emberOnSoft' : 'ink'}
      color="card"
      px={{ base: '4', md: '7' }}
      minH="44px"
      gap="4"
      align="center"
      justify="center"
      borderBottomWidth="1px"
      borderColor="ink2"
      onMouseEnter={() => setPointed(true)}
      onMouseLeave={() => setPointed(false)}
      onFocus={() => setPointed(true)}
      onBlur={() => setPointed(false)}
    >
      <Text py="2">{one.sentence}</Text>
      {one.undo && (
        <Press
          label="Undo"
          onPress={() => {
            one.undo?.()
            dismiss(one.id)
          }}
        >
          Undo
        </Press>
      )}
      <Press label="Close" onPress={() => dismiss(one.id)}>
        <X size={18} />
      </Press>
    </Flex>
  )
}

function Press(props: { label: string; onPress: () => void; children: React.ReactNode }) {
  return (
    <Box
      as="button"
      minW="44px"
      minH="40px"
      display="inline-flex"
      alignItems="center"
      justifyContent="center"
      fontWeight="700"
      textDecoration="underline"
      cursor="pointer"
      aria-label={props.label}
      onClick={props.onPress}
    >
      {props.children}
    </Box>
  )
}
