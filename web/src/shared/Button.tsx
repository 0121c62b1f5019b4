import { Button as ChakraButton } from '@chakra-ui/react'
import type { ButtonProps as ChakraButtonProps } from '@chakra-ui/react'

/** Our four kinds of button: the one thing to do next, the rest, its outlined cousin, and a word in a sentence. */
const LOOKS = {
  ember: { bg: 'ember', color: 'card', _hover: { bg: 'emberOnSoft' } },
  quiet: { bg: 'card', color: 'ink', borderWidth: '1px', borderColor: 'control', _hover: { bg: 'paper' } },
  emberLine: {
    bg: 'card',
    color: 'emberOnSoft',
    borderWidth: '1px',
    borderColor: 'ember',
    _hover: { bg: 'emberSoft' },
  },
  link: { color: 'emberOnSoft', px: '0', minW: '0', height: 'auto', textDecoration: 'underline' },
} as const satisfies Record<string, ChakraButtonProps>

export interface ButtonProps extends Omit<ChakraButtonProps, 'variant'> {
  look?: keyof typeof LOOKS
}

export function Button({ look = 'quiet', ...props }: ButtonProps) {
  return <ChakraButton variant="plain" fontWeight="600" borderRadius="control" {...LOOKS[look]} {...props} />
}
