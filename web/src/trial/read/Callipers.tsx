import { Box } from '@chakra-ui/react'
import { useState } from 'react'
import type { Process } from '../../api/types'
import { TextField } from '../../shared/Fields'
import type { Scores } from './scoring'

interface KeptTextProps {
  label: string
  value: string
  placeholder: string
  onKeep: (text: string) => void
}

/** A field that is kept when one leaves it or presses Enter. */
export function KeptText({ label, value, placeholder, onKeep }: KeptTextProps) {
  const [text, setText] = useState(value)
  return (
    <Box flex="1">
      <TextField
        label={label}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
        onBlur={() => text !== value && onKeep(text)}
        onKeyDown={(event) => event.key === 'Enter' && text !== value && onKeep(text)}
        placeholder={placeholder}
      />
    </Box>
  )
}

interface CallipersProps {
  process: Process
  scores: Scores
  onKeep: (scores: Scores) => void
}

/** What callipers say of a patch: the kerf of a cut, else how deep it is. */
export function Callipers({ process, scores, onKeep }: CallipersProps) {
  const key = process.passes_through ? 'kerf_mm' : 'depth_mm'
  const value = scores[key]
  return (
    <KeptText
      label={key === 'kerf_mm' ? 'Kerf by callipers' : 'Depth by callipers'}
      value={value === null ? '' : `${value} mm`}
      placeholder="mm"
      onKeep={(text) => onKeep({ ...scores, [key]: text.trim() === '' ? null : text })}
    />
  )
}
