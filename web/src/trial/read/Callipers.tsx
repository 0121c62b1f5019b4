import { Box } from '@chakra-ui/react'
import { useState } from 'react'
import type { Scale } from '../../api/types'
import { TextField } from '../../shared/Fields'
import { withValue } from './scoring'
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
    <Box flex="1" minW="120px">
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
  scale: Scale
  scores: Scores
  onKeep: (scores: Scores) => void
}

/** What callipers say of a patch. */
export function Callipers({ scale, scores, onKeep }: CallipersProps) {
  const value = scores.values[scale.key]
  return (
    <KeptText
      label={scale.question}
      value={value === undefined ? '' : `${value} ${scale.unit}`}
      placeholder={scale.unit}
      onKeep={(text) => onKeep(withValue(scores, scale.key, text.trim() === '' ? null : text))}
    />
  )
}
