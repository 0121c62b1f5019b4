/** The colours of Rezept: paper and timber, soot and glow. Every other file takes them from here or the theme. */

export const light = {
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

/** For use beside the machine: near black-brown, the same names. */
export const dark: Record<ColourName, string> = {
  paper: '#15110E',
  card: '#201A15',
  line: '#332A22',
  lineStrong: '#4A3E32',
  ink: '#F3EADD',
  ink2: '#BDAF9C',
  ink3: '#A89A87',
  control: '#8F806D',
  ember: '#F07B3F',
  emberSoft: '#3A2216',
  emberOnSoft: '#FF9C6B',
  steel: '#8DB8D2',
  steelSoft: '#1E2C36',
  moss: '#A9C77F',
  mossSoft: '#27301B',
  plate: '#2A221B',
}

export type ColourName = keyof typeof light

const hyphened = (name: string) => name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)

/** The colours as drawings use them: whatever the theme says at the moment. */
export const palette = Object.fromEntries(
  Object.keys(light).map((name) => [name, `var(--chakra-colors-${hyphened(name)})`]),
) as Record<ColourName, string>

/** The light colours as they are set on paper. */
export const onPaper = Object.fromEntries(
  Object.entries(light).map(([name, colour]) => [`--chakra-colors-${hyphened(name)}`, colour]),
)

/** What lies on a patch's own colour; that does not change with the theme. */
export const onScale = { dark: '#231C15', pale: '#FFFDF8' } as const

/** Where the choice of a ground's colour begins. */
export const anyGround = '#C8A06E'

/** Heat going in: warm, lightness falling steadily. */
export const doseScale = ['#F6E9C9', '#EBCF94', '#DBAA5C', '#BF7B33', '#8F4A20', '#5A2A18'] as const

/** What came out: cool, lightness falling steadily. */
export const outcomeScale = ['#E3EBEE', '#A9C4D2', '#5C8FAD', '#1F5270'] as const
