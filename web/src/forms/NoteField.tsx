import { Box, Textarea } from '@chakra-ui/react'
import { useId } from 'react'
import { Label, Note } from '../shared/Fields'

interface NoteFieldProps {
  label: string
  value: string
  error?: string
  hint?: string
  onChange: (value: string) => void
}

/** A longer text. */
export function NoteField({ label, value, error, hint, onChange }: NoteFieldProps) {
  const id = useId()
  return (
    <Box>
      <Label id={id}>{label}</Label>
      <Textarea
        id={id}
        value={value}
        autoresize
        minH="64px"
        bg="card"
        px="2.5"
        borderColor={error ? 'ember' : 'control'}
        borderRadius="control"
        fontSize="15px"
        onChange={(event) => onChange(event.currentTarget.value)}
      />
      <Note id={id} error={error} hint={hint} />
    </Box>
  )
}
