import { Box, Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import { minutes } from '../../shared/words'
import { TypedField } from './TypedField'
import type { Change } from './useDesign'

const LENGTH: Parameter = {
  key: 'length',
  name: 'length',
  unit: 'mm',
  quantity: 'length',
  scale: 'linear',
  step: 0.1,
  default: null,
  processes: [],
  sources: [],
  motions: [],
}

interface LabelSettingsProps {
  labels: Design['labels']
  /** Time of the lettering in the last good plan. */
  seconds: number
  parameter: (key: string) => Parameter
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** Lettering on the plate: on or off, and how it is burned. Its speed and power are never guessed. */
export const LabelSettings = memo(function LabelSettings(props: LabelSettingsProps) {
  const { labels, seconds, parameter, errors, change, settle } = props
  const { inventory, units } = useShop()
  const signOf = (row: Parameter) => unitSign(unitOf(inventory.units, row.quantity, units)?.symbol ?? '')
  const set = (part: (labels: Design['labels']) => Partial<Design['labels']>, field: string | null) =>
    change((design) => ({ ...design, labels: { ...design.labels, ...part(design.labels) } }), field)
  return (
    <Box>
      <Flex align="center" gap="2" fontSize="15px" minH="34px">
        <Flex as="label" align="center" gap="2" cursor="pointer" fontWeight="600">
          <input
            type="checkbox"
            checked={labels.on}
            onChange={(event) => {
              const on = event.currentTarget.checked
              set(() => ({ on }), null)
            }}
            style={{ width: 18, height: 18 }}
          />
          Labels
        </Flex>
        {labels.on && (
          <Text color="ink2" fontSize="14px">
            {minutes(seconds)} min of the time
          </Text>
        )}
      </Flex>
      {labels.on && (
        <Flex gap="2">
          {(['speed_mm_s', 'power_pct'] as const).map((key) => (
            <Box key={key} flex="1">
              <Text fontSize="13px" color="ink2">
                {parameter(key).name} {signOf(parameter(key))}
              </Text>
              <TypedField
                label={`Label ${parameter(key).name}`}
                value={labels.settings[key]}
                parameter={parameter(key)}
                error={errors.get(`labels.settings.${key}`)}
                onType={(text) =>
                  set((now) => ({ settings: { ...now.settings, [key]: text } }), `labels.${key}`)
                }
                onLeave={settle}
              />
            </Box>
          ))}
          <Box flex="1">
            <Text fontSize="13px" color="ink2">
              height mm
            </Text>
            <TypedField
              label="Label height"
              value={labels.height_mm}
              parameter={LENGTH}
              error={errors.get('labels.height_mm')}
              onType={(text) => set(() => ({ height_mm: text }), 'labels.height_mm')}
              onLeave={settle}
            />
          </Box>
        </Flex>
      )}
      <Sentences errors={errors} about="labels" />
    </Box>
  )
})

interface PatchSizeProps {
  patch: Design['patch']
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** Width, height and gap of the patches. */
export const PatchSize = memo(function PatchSize({ patch, errors, change, settle }: PatchSizeProps) {
  const parts = [
    { key: 'width_mm', name: 'width' },
    { key: 'height_mm', name: 'height' },
    { key: 'gap_mm', name: 'gap' },
  ] as const
  return (
    <Box>
      <Flex gap="2">
        {parts.map(({ key, name }) => (
          <Box key={key} flex="1">
            <Text fontSize="13px" color="ink2">
              {name} mm
            </Text>
            <TypedField
              label={`Patch ${name}`}
              value={patch[key]}
              parameter={LENGTH}
              error={errors.get(`patch.${key}`)}
              onType={(text) =>
                change((design) => ({ ...design, patch: { ...design.patch, [key]: text } }), `patch.${key}`)
              }
              onLeave={settle}
            />
          </Box>
        ))}
      </Flex>
      <Sentences errors={errors} about="patch" />
    </Box>
  )
})

/** What is wrong with one part of the design, each sentence once. */
function Sentences({ errors, about }: { errors: ReadonlyMap<string, string>; about: string }) {
  return [...errors]
    .filter(([path]) => path === about || path.startsWith(`${about}.`))
    .map(([path, sentence]) => (
      <Text key={path} role="alert" color="emberOnSoft" fontSize="13px">
        {sentence}
      </Text>
    ))
}
