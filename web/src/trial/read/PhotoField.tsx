import { useRef } from 'react'
import { Button } from '../../shared/Button'

interface PhotoFieldProps {
  label: string
  /** Phones open the camera at once, and offer nothing that was taken before. */
  camera?: boolean
  busy: boolean
  onFiles: (files: FileList | null) => void
  children: React.ReactNode
}

/** A button that takes photos: from the camera, or those there are. */
export function PhotoField({ label, camera = false, busy, onFiles, children }: PhotoFieldProps) {
  const field = useRef<HTMLInputElement>(null)
  return (
    <>
      <input
        ref={field}
        type="file"
        accept="image/jpeg,image/png,image/webp,image/heic,.heic"
        capture={camera ? 'environment' : undefined}
        multiple={!camera}
        aria-label={label}
        hidden
        onChange={(event) => {
          onFiles(event.currentTarget.files)
          event.currentTarget.value = ''
        }}
      />
      <Button
        look="quiet"
        size="sm"
        height={{ base: '44px', lg: '36px' }}
        loading={busy}
        loadingText="Reading it"
        onClick={() => field.current?.click()}
      >
        {children}
      </Button>
    </>
  )
}
