import { Toast, Toaster, createToaster } from '@chakra-ui/react'

export const toaster = createToaster({ placement: 'bottom', pauseOnPageIdle: true })

/** Says that something failed, in the server's own sentence. */
export function sayFailed(error: unknown) {
  const sentence = error instanceof Error ? error.message : 'Something went wrong.'
  toaster.create({ description: sentence, type: 'error', duration: 9000, closable: true })
}

export function Toasts() {
  return (
    <Toaster toaster={toaster}>
      {(toast) => (
        <Toast.Root bg={toast.type === 'error' ? 'emberOnSoft' : 'ink'} color="card" borderRadius="control">
          <Toast.Description>{toast.description}</Toast.Description>
          {toast.closable && <Toast.CloseTrigger aria-label="Close" />}
        </Toast.Root>
      )}
    </Toaster>
  )
}
