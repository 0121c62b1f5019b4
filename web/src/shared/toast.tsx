import { Toast, Toaster, createToaster } from '@chakra-ui/react'

/** At the top: what one presses while a beam is on stands at the bottom, and nothing may lie over it. */
export const toaster = createToaster({ placement: 'top', pauseOnPageIdle: true })

/** Says that something failed, in the server's own sentence. */
export function sayFailed(error: unknown) {
  const sentence = error instanceof Error ? error.message : 'Something went wrong.'
  toaster.create({ description: sentence, type: 'error', duration: 9000, closable: true })
}

/** Says that something was done, and offers to take it back where that can be. */
export function sayDone(sentence: string, undo?: () => void) {
  toaster.create({
    description: sentence,
    type: 'success',
    duration: undo ? 9000 : 4000,
    closable: true,
    ...(undo && { action: { label: 'Undo', onClick: undo } }),
  })
}

export function Toasts() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root
          bg={toast.type === 'error' ? 'emberOnSoft' : 'ink'}
          color="card"
          borderRadius="control"
          w={{ base: 'calc(100vw - 32px)', md: '600px' }}
        >
          <Toast.Description>{toast.description}</Toast.Description>
          {toast.action && (
            <Toast.ActionTrigger fontWeight="700" textDecoration="underline" cursor="pointer">
              {toast.action.label}
            </Toast.ActionTrigger>
          )}
          {toast.closable && <Toast.CloseTrigger aria-label="Close" />}
        </Toast.Root>
      )}
    </Toaster>
  )
}
