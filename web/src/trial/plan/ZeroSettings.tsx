import { Box, Flex } from '@chakra-ui/react'
import type { Design } from '../../api/types'
import { SelectField } from '../../shared/Fields'
import { FigureField } from './FigureField'
import { LENGTH } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

type Zero = NonNullable<Design['zero']>
type ZeroAt = NonNullable<Zero['at']>
const ON_PIECE: Zero = { at: 'piece', x_mm: 0, y_mm: 0 }
const ON_PLATE: { value: ZeroAt; label: string }[] = [
  { value: 'lower_left', label: 'plate: lower left' },
  { value: 'lower_right', label: 'plate: lower right' },
  { value: 'upper_left', label: 'plate: upper left' },
  { value: 'upper_right', label: 'plate: upper right' },
  { value: 'middle', label: 'plate: middle' },
]

/** Where zero lies, in a few words; nothing where it lies as usual. */
export function zeroWords(zero: Design['zero']): string {
  if (!zero) return ''
  const on = ON_PLATE.find(({ value }) => value === zero.at)
  const away = Number(zero.x_mm) !== 0 || Number(zero.y_mm) !== 0
  return on ? `zero on the ${on.label.replace(':', "'s")}` : away ? 'moved from zero' : ''
}

interface ZeroSettingsProps {
  zero: Design['zero']
  galvo: boolean
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** What somebody sets the machine's zero on, and how far from it that lies. */
export function ZeroSettings({ zero, galvo, errors, change, settle }: ZeroSettingsProps) {
  const now = zero ?? ON_PIECE
  const figure = (key: 'x_mm' | 'y_mm', name: string) => (
    <FigureField
      name={name}
      label={`Zero ${name}`}
      value={now[key]}
      parameter={LENGTH}
      error={errors.get(`zero.${key}`)}
      onType={(text) =>
        change(
          (design) => ({ ...design, zero: { ...(design.zero ?? ON_PIECE), [key]: text } }),
          `zero.${key}`,
        )
      }
      onLeave={settle}
    />
  )
  return (
    <>
      <Flex gap="2" mt="2" align="flex-end">
        <Box flex="1.6">
          <SelectField<ZeroAt>
            label="Machine zero on the"
            value={now.at ?? 'piece'}
            onPick={(at) =>
              change((design) => ({ ...design, zero: at === 'piece' ? null : { ...ON_PIECE, at } }))
            }
            options={[
              { value: 'piece', label: galvo ? 'middle of the piece' : 'piece: lower left' },
              ...ON_PLATE,
            ]}
          />
        </Box>
        {figure('x_mm', 'at X')}
        {figure('y_mm', 'at Y')}
      </Flex>
      <Sentences errors={errors} about="zero" />
    </>
  )
}
