import { useRef } from 'react'
import { Button } from './Button'
import type { ButtonProps } from './Button'

interface FileButtonProps extends Omit<ButtonProps, 'onClick'> {
  /** What the file is, for those who do not see the button. */
  label: string
  accept: string
  onFile: (file: File) => void
}

/** A button that asks for one file. The same file may be chosen again. */
export function FileButton({ label, accept, onFile, ...button }: FileButtonProps) {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        hidden
        onChange={({ currentTarget }) => {
          const [file] = currentTarget.files ?? []
          if (file) onFile(file)
          currentTarget.value = ''
        }}
      />
      <Button size="sm" {...button} onClick={() => input.current?.click()} />
    </>
  )
}
