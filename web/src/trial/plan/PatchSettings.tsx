import { Box, Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Plate } from '../../api/types'
import { Choice, TextField } from '../../shared/Fields'
import { minutes } from '../../shared/words'
import { FigureField } from './FigureField'
import { LENGTH } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

interface PatchSettingsProps {
  patch: Design['patch']
  /** Lettering is drawn in single lines: hatched processes cannot fill it. */
  hatched: boolean
  blocks: boolean
  /** Time and footprint of the last good plan: what the size costs. */
  seconds: number
  footprint: Plate['plate']
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

const SHAPES = [
  { value: 'rectangle', label: 'square' },
  { value: 'disc', label: 'disc' },
  { value: 'coupon', label: 'coupon' },
  { value: 'lettering', label: 'letters' },
]

/** Shape, size and gap of the patches. */
export const PatchSettings = memo(function PatchSettings(props: PatchSettingsProps) {
  const { patch, hatched, blocks, seconds, footprint, errors, change, settle } = props
  const set = (part: (patch: Design['patch']) => Partial<Design['patch']>, field: string | null) =>
    change((design) => ({ ...design, patch: { ...design.patch, ...part(design.patch) } }), field)
  const shapeOf = (shape: string) =>
    set((now) => {
      const text = shape === 'lettering' ? (now.text ?? 'Ag5') : undefined
      return { shape, text, height_mm: shape === 'disc' ? now.width_mm : now.height_mm }
    }, null)
  const figure = (key: 'width_mm' | 'height_mm' | 'gap_mm' | 'block_gap_mm', name: string) => (
    <FigureField
      name={name}
      label={`Patch ${name}`}
      value={patch[key] ?? (key === 'block_gap_mm' ? 8 : undefined)}
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
        value={patch.shape}
        onPick={shapeOf}
        options={hatched ? SHAPES.filter(({ value }) => value !== 'lettering') : SHAPES}
      />
      <Flex gap="2" mt="2">
        {figure('width_mm', patch.shape === 'disc' ? 'diameter' : 'width')}
        {patch.shape !== 'disc' && figure('height_mm', 'height')}
        {figure('gap_mm', 'gap')}
        {blocks && figure('block_gap_mm', 'between blocks')}
      </Flex>
      <SizeSlider patch={patch} seconds={seconds} footprint={footprint} change={change} settle={settle} />
      {patch.shape === 'lettering' && (
        <Box mt="2">
          <TextField
            label="Letters"
            value={patch.text ?? ''}
            onChange={(event) => {
              const text = event.currentTarget.value
              set(() => ({ text }), 'patch.text')
            }}
          />
        </Box>
      )}
      <Sentences errors={errors} about="patch" />
    </Box>
  )
})

const SMALLEST_MM = 2
const LARGEST_MM = 30

type SizeSliderProps = Pick<PatchSettingsProps, 'patch' | 'seconds' | 'footprint' | 'change' | 'settle'>

/** Pulling the size of the patches, with what it costs beside it: time and ground. */
function SizeSlider({ patch, seconds, footprint, change, settle }: SizeSliderProps) {
  const width = Number(patch.width_mm)
  const height = Number(patch.height_mm)
  if (!(width > 0 && height > 0)) return null
  const ratio = height / width
  const pull = (next: number) =>
    change(
      (design) => ({
        ...design,
        patch: { ...design.patch, width_mm: next, height_mm: Number((next * ratio).toFixed(2)) },
      }),
      'patch.size',
    )
  return (
    <Flex align="center" gap="3" mt="1.5" fontSize="14px" color="ink2">
      <input
        type="range"
        aria-label="Patch size"
        aria-valuetext={`${width} mm, burns for ${minutes(seconds)} min`}
        min={SMALLEST_MM}
        max={Math.max(LARGEST_MM, Math.ceil(width))}
        step={0.5}
        value={width}
        className="size"
        onChange={(event) => pull(Number(event.currentTarget.value))}
        onPointerUp={settle}
        onBlur={settle}
      />
      <Text whiteSpace="nowrap" fontVariantNumeric="tabular-nums">
        {minutes(seconds)} min · {Math.ceil(footprint.width_mm)} x {Math.ceil(footprint.height_mm)} mm
      </Text>
    </Flex>
  )
}
