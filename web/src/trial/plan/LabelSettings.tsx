import { Box, Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import { clockUnit, minutes } from '../../shared/words'
import { FigureField } from './FigureField'
import { LENGTH } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

interface LabelSettingsProps {
  labels: Design['labels']
  /** Time of the lettering in the last good plan, and its share of everything in per cent. */
  seconds: number
  share: number
  /** What labels take beside speed and power on this machine. */
  more: Parameter[]
  parameter: (key: string) => Parameter
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

const PARTS = [
  { key: 'on', word: 'Labels' },
  { key: 'qr', word: 'code' },
  { key: 'marks', word: 'marks' },
] as const

/** Lettering, code and marks: on or off, and how they are burned. Their speed and power are never guessed. */
export const LabelSettings = memo(function LabelSettings(props: LabelSettingsProps) {
  const { labels, seconds, share, more, parameter, errors, change, settle } = props
  const set = (part: (labels: Design['labels']) => Partial<Design['labels']>, field: string | null) =>
    change((design) => ({ ...design, labels: { ...design.labels, ...part(design.labels) } }), field)
  const drawn = labels.on || labels.qr || labels.marks
  return (
    <Box>
      <Flex align="center" gap="4" fontSize="15px" minH="34px" wrap="wrap">
        {PARTS.map(({ key, word }) => (
          <Flex key={key} as="label" align="center" gap="2" cursor="pointer" fontWeight="600">
            <input
              type="checkbox"
              checked={labels[key] ?? false}
              onChange={(event) => {
                const on = event.currentTarget.checked
                set(() => ({ [key]: on }), null)
              }}
              style={{ width: 18, height: 18 }}
            />
            {word}
          </Flex>
        ))}
        {drawn && (
          <Text color="ink2" fontSize="14px" ml="auto">
            {minutes(seconds)} {clockUnit(seconds)}, {share} %
          </Text>
        )}
      </Flex>
      {drawn && (
        <Flex gap="2">
          {[parameter('speed_mm_s'), parameter('power_pct'), ...more].map((row) => (
            <FigureField
              key={row.key}
              name={row.name}
              label={`Label ${row.name}`}
              value={labels.settings[row.key]}
              parameter={row}
              error={errors.get(`labels.settings.${row.key}`)}
              onType={(text) =>
                set((now) => {
                  const settings = { ...now.settings, [row.key]: text }
                  if (text.trim() === '') delete settings[row.key]
                  return { settings }
                }, `labels.${row.key}`)
              }
              onLeave={settle}
            />
          ))}
          <FigureField
            name="height"
            label="Label height"
            value={labels.height_mm}
            parameter={LENGTH}
            error={errors.get('labels.height_mm')}
            onType={(text) => set(() => ({ height_mm: text }), 'labels.height_mm')}
            onLeave={settle}
          />
        </Flex>
      )}
      <Sentences errors={errors} about="labels" />
    </Box>
  )
})
