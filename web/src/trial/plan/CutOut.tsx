import { Box, Flex } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import { FigureField } from './FigureField'
import { Fold } from './Fold'
import { LENGTH } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

interface CutOutProps {
  on: boolean
  hole: Design['hang_hole_mm']
  settings: Design['cut_settings']
  parameter: (key: string) => Parameter
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** The plate cut out of its piece, last of all, and a hole to hang it by. */
export const CutOut = memo(function CutOut(props: CutOutProps) {
  const { on, hole, settings, parameter, errors, change, settle } = props
  const cut = on || (hole !== 0 && hole !== undefined && hole !== null && hole !== '0')
  const says =
    [on && 'cut out', cut && hole ? `hole ${hole} mm` : ''].filter(Boolean).join(', ') || 'stays in its piece'
  return (
    <Fold title="Cut out" says={says}>
      <Flex gap="2" align="flex-end">
        <Flex as="label" align="center" gap="2" fontSize="15px" minH="34px" flex="1.4">
          <input
            type="checkbox"
            checked={on}
            onChange={(event) => {
              const checked = event.currentTarget.checked
              change((design) => ({ ...design, cut_out: checked }))
            }}
            style={{ width: 18, height: 18 }}
          />
          cut out last
        </Flex>
        <FigureField
          name="hang hole"
          label="Hang hole"
          value={hole ?? 0}
          parameter={LENGTH}
          error={errors.get('hang_hole_mm')}
          onType={(text) => change((design) => ({ ...design, hang_hole_mm: text }), 'hang_hole_mm')}
          onLeave={settle}
        />
      </Flex>
      {cut && (
        <Flex gap="2" mt="2">
          {['speed_mm_s', 'power_pct', 'passes'].map((key) => (
            <FigureField
              key={key}
              name={parameter(key).name}
              label={`Cut-out ${parameter(key).name}`}
              value={settings?.[key] ?? (key === 'passes' ? 1 : undefined)}
              parameter={parameter(key)}
              error={errors.get(`cut_settings.${key}`)}
              onType={(text) =>
                change(
                  (design) => ({ ...design, cut_settings: { ...design.cut_settings, [key]: text } }),
                  `cut_settings.${key}`,
                )
              }
              onLeave={settle}
            />
          ))}
        </Flex>
      )}
      <Box>
        <Sentences errors={errors} about="cut_settings" />
        <Sentences errors={errors} about="hang_hole_mm" />
      </Box>
    </Fold>
  )
})
