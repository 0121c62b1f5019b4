import { Box, Flex, Text } from '@chakra-ui/react'
import { memo, useState } from 'react'
import type { Design, Plate } from '../../api/types'
import { Choice } from '../../shared/Fields'
import { kerfWords } from '../../shared/words'
import { FigureField } from './FigureField'
import { LENGTH } from './lengths'
import { LettersField } from './LettersField'
import { OwnFigure } from './OwnFigure'
import { Sentences } from './Sentences'
import { SlotsFields } from './SlotsFields'
import type { Change } from './useDesign'

interface PatchSettingsProps {
  patch: Design['patch']
  /** Whether what is judged fills areas: letters are outlines then. */
  filled: boolean
  blocks: boolean
  /** What the last good plan understood of a figure somebody brought, and its height there. */
  plan: Pick<Plate, 'brought'> & { height_mm: number }
  /** How wide a cut is here, where patches are cut out and a recipe says it. */
  kerf: number | null
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

const SHAPES = [
  { value: 'rectangle', label: 'square' },
  { value: 'disc', label: 'disc' },
  { value: 'coupon', label: 'coupon' },
  { value: 'lettering', label: 'letters' },
  { value: 'proof', label: 'proof piece' },
  { value: 'slots', label: 'slots and tab' },
  { value: 'figure', label: 'figure' },
]

/** Shape, size and gap of the patches. */
export const PatchSettings = memo(function PatchSettings(props: PatchSettingsProps) {
  const { patch, filled, blocks, plan, kerf, errors, change, settle } = props
  const [bringing, setBringing] = useState(false)
  const own = bringing || patch.shape === 'figure'
  const set = (part: (patch: Design['patch']) => Partial<Design['patch']>, field: string | null) =>
    change((design) => ({ ...design, patch: { ...design.patch, ...part(design.patch) } }), field)
  const shapeOf = (shape: string) => {
    // It is one as soon as there is a drawing.
    setBringing(shape === 'figure')
    if (shape === 'figure') return
    set((now) => {
      const text = shape === 'lettering' ? (now.text ?? 'Ag5') : undefined
      // A figure's height that follows from its width is said nowhere: another shape begins as high as it is wide.
      const height_mm = shape === 'disc' ? now.width_mm : (now.height_mm ?? now.width_mm)
      const slots = shape === 'slots' ? (now.slots ?? { tab_mm: 5 }) : undefined
      return { shape, text, letters: undefined, slots, height_mm, figure: undefined }
    }, null)
  }
  // The height of a figure follows from its width.
  const slots = patch.shape === 'slots' ? patch.slots : undefined
  const follows = patch.shape === 'disc' || (patch.shape === 'figure' && !patch.figure?.stretched)
  // What holds where nothing is said; a figure's height until another one is typed.
  const otherwise: Partial<Design['patch']> = { height_mm: plan.height_mm, block_gap_mm: 8 }
  const figure = (key: 'width_mm' | 'height_mm' | 'gap_mm' | 'block_gap_mm', name: string) => (
    <FigureField
      name={name}
      label={`Patch ${name}`}
      value={patch[key] ?? otherwise[key]}
      parameter={LENGTH}
      error={errors.get(`patch.${key}`)}
      onType={(text) =>
        set(
          () =>
            patch.shape === 'disc' && key === 'width_mm'
              ? { width_mm: text, height_mm: text }
              : { [key]: text },
          `patch.${key}`,
        )
      }
      onLeave={settle}
    />
  )
  return (
    <Box>
      <Choice
        label="Patch shape"
        value={own ? 'figure' : patch.shape}
        onPick={shapeOf}
        options={filled ? SHAPES.filter(({ value }) => value !== 'slots') : SHAPES}
      />
      <Flex gap="2" mt="2">
        {!slots && figure('width_mm', patch.shape === 'disc' ? 'diameter' : 'width')}
        {!slots && !follows && figure('height_mm', 'height')}
        {figure('gap_mm', 'gap')}
        {blocks && figure('block_gap_mm', 'between blocks')}
      </Flex>
      {kerf !== null && (
        <Text fontSize="13.5px" color="steel" mt="1">
          {kerfWords(kerf)}
        </Text>
      )}
      {slots && (
        <SlotsFields
          slots={slots}
          errors={errors}
          onSlots={(changed, field) => set(() => ({ slots: changed }), field)}
          settle={settle}
        />
      )}
      {own && <OwnFigure figure={patch.figure} plan={plan} onPatch={(part) => set(() => part, null)} />}
      {patch.shape === 'lettering' && (
        <LettersField
          label="Letters"
          text={patch.text ?? ''}
          letters={patch.letters}
          filled={filled}
          onText={(text) => set(() => ({ text }), 'patch.text')}
          onLetters={(letters) => set(() => ({ letters }), null)}
        />
      )}
      <Sentences errors={errors} about="patch" />
    </Box>
  )
})
