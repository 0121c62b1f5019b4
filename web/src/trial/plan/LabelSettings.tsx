import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import { TextField } from '../../shared/Fields'
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
  /** Whether parts are cut out, which can carry their names. */
  partsFall: boolean
  /** What labels take beside speed and power on this machine. */
  more: Parameter[]
  parameter: (key: string) => Parameter
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

const PARTS = [
  { key: 'heading', word: 'Heading' },
  { key: 'numbers', word: 'numbers' },
  { key: 'qr', word: 'code' },
  { key: 'marks', word: 'marks' },
  { key: 'ids', word: 'a name on each' },
] as const

type Labels = Design['labels']

const isOn = (labels: Labels, key: (typeof PARTS)[number]['key']) =>
  labels[key] ?? (key === 'heading' || key === 'numbers' ? labels.on : false)

/** With one part on or off; `on` says whether there is lettering at all. */
function withPart(labels: Labels, key: (typeof PARTS)[number]['key'], on: boolean): Labels {
  const parts = { heading: isOn(labels, 'heading'), numbers: isOn(labels, 'numbers'), [key]: on }
  return { ...labels, ...parts, on: parts.heading || parts.numbers }
}

/** Lettering, code and marks: on or off, and how they are burned. Their speed and power are never guessed. */
export const LabelSettings = memo(function LabelSettings(props: LabelSettingsProps) {
  const { labels, seconds, share, partsFall, more, parameter, errors, change, settle } = props
  const set = (part: (labels: Design['labels']) => Partial<Design['labels']>, field: string | null) =>
    change((design) => ({ ...design, labels: { ...design.labels, ...part(design.labels) } }), field)
  const drawn = PARTS.some(({ key }) => isOn(labels, key)) || Boolean(labels.text)
  return (
    <Box>
      <Flex align="center" gap="4" fontSize="15px" minH="34px" wrap="wrap">
        {PARTS.filter(({ key }) => key !== 'ids' || partsFall).map(({ key, word }) => (
          <Flex key={key} as="label" align="center" gap="2" cursor="pointer" fontWeight="600">
            <input
              type="checkbox"
              checked={isOn(labels, key)}
              onChange={(event) => {
                const on = event.currentTarget.checked
                set((now) => withPart(now, key, on), null)
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
        <Grid gap="2" templateColumns="repeat(3, 1fr)">
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
                  // Whoever types them knows them.
                  return { settings, estimated: undefined }
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
        </Grid>
      )}
      {drawn && labels.estimated && (
        <Text fontSize="14px" color="steel" mt="1">
          Estimated: nobody has marked this material here yet. Try them in a corner.
        </Text>
      )}
      {drawn && (
        <Box mt="2">
          <TextField
            label="Own words on the plate"
            value={labels.text ?? ''}
            onChange={(event) => {
              const text = event.currentTarget.value
              set(() => ({ text: text === '' ? undefined : text }), 'labels.text')
            }}
          />
        </Box>
      )}
      <Sentences errors={errors} about="labels" />
    </Box>
  )
})
