/** The colours of Rezept: paper and timber, soot and glow. Every other file takes them from here or the theme. */

export const palette = {
  paper: '#F6F1E6',
  card: '#FFFDF8',
  line: '#E0D6C4',
  lineStrong: '#CDBFA8',
  ink: '#231C15',
  ink2: '#6A5E50',
  ink3: '#75695A',
  control: '#94876F',
  ember: '#BF4413',
  emberSoft: '#F8E1D3',
  emberOnSoft: '#A63A10',
  steel: '#275673',
  steelSoft: '#DEE9EF',
  moss: '#4C6A2C',
  mossSoft: '#E4EBD6',
  plate: '#FAF3E2',
} as const

/** Heat going in: warm, lightness falling steadily. */
export const doseScale = ['#F6E9C9', '#EBCF94', '#DBAA5C', '#BF7B33', '#8F4A20', '#5A2A18'] as const

/** What came out: cool, lightness falling steadily. */
export const outcomeScale = ['#E3EBEE', '#A9C4D2', '#5C8FAD', '#1F5270'] as const
