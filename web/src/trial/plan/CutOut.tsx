import { Box, Flex, Link, SimpleGrid, Text } from '@chakra-ui/react'
import { memo } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Design, Head, Parameter, TrialPageData } from '../../api/types'
import { ALWAYS_SHOWN } from '../../shared/words'
import { AirPick } from './AirPick'
import { FigureField } from './FigureField'
import { Fold } from './Fold'
import { LENGTH } from './lengths'
import { Sentences } from './Sentences'
import type { Change } from './useDesign'

interface CutOutProps {
  on: boolean
  hole: Design['hang_hole_mm']
  settings: Design['cut_settings']
  /** Settings a cut has on this machine, beside speed, power and passes. */
  more: Parameter[]
  /** The proven cut of this sheet on this head, where the book has one. */
  proven: TrialPageData['proven_cut']
  head: Head
  parameter: (key: string) => Parameter
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** A design whose own cuts are set as the book has proven it, where nobody has set them yet. */
function withProven(design: Design, proven: TrialPageData['proven_cut']): Design {
  const unset = Object.keys(design.cut_settings ?? {}).length === 0
  return proven && unset ? { ...design, cut_settings: proven.settings } : design
}

/** The settings with one of them typed; emptied, it is not set any more. */
function changed(settings: Design['cut_settings'], key: string, text: string): Design['cut_settings'] {
  const now = { ...settings, [key]: text }
  if (text.trim() === '') delete now[key]
  return now
}

function sameAs(proven: Record<string, number>, settings: Design['cut_settings']): boolean {
  return Object.entries(proven).every(([key, value]) => Number(settings?.[key]) === value)
}

/** The plate cut out of its piece, last of all, and a hole to hang it by. */
export const CutOut = memo(function CutOut(props: CutOutProps) {
  const { on, hole, settings, more, proven, head, parameter, errors, change, settle } = props
  const cut = on || (hole !== 0 && hole !== undefined && hole !== null && hole !== '0')
  const says =
    [on && 'cut out', cut && hole ? `hole ${hole} mm` : ''].filter(Boolean).join(', ') || 'stays in its piece'
  return (
    <Fold title="Cut out" says={says} errors={errors} about={['cut_out', 'cut_settings', 'hang_hole_mm']}>
      <Flex gap="2" align="flex-end">
        <Flex as="label" align="center" gap="2" fontSize="15px" minH="34px" flex="1.4">
          <input
            type="checkbox"
            checked={on}
            onChange={(event) => {
              const checked = event.currentTarget.checked
              change((design) => ({ ...withProven(design, proven), cut_out: checked }))
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
          onType={(text) =>
            change((design) => ({ ...withProven(design, proven), hang_hole_mm: text }), 'hang_hole_mm')
          }
          onLeave={settle}
        />
      </Flex>
      {cut && (
        <SimpleGrid columns={3} gap="2" mt="2">
          {[...ALWAYS_SHOWN.map(parameter), ...more].map((row) =>
            row.key === 'air_level' ? (
              <Box key={row.key} minW="0">
                <Text fontSize="13px" color="ink2">
                  air
                </Text>
                <AirPick
                  label="Cut-out air"
                  value={String(settings?.air_level ?? '')}
                  unsaid="as the patches"
                  head={head}
                  onPick={(level) =>
                    change((design) => ({
                      ...design,
                      cut_settings: changed(design.cut_settings, 'air_level', level),
                    }))
                  }
                />
              </Box>
            ) : (
              <FigureField
                key={row.key}
                name={row.name}
                label={`Cut-out ${row.name}`}
                value={settings?.[row.key] ?? (row.key === 'passes' ? 1 : undefined)}
                parameter={row}
                error={errors.get(`cut_settings.${row.key}`)}
                onType={(text) =>
                  change(
                    (design) => ({ ...design, cut_settings: changed(design.cut_settings, row.key, text) }),
                    `cut_settings.${row.key}`,
                  )
                }
                onLeave={settle}
              />
            ),
          )}
        </SimpleGrid>
      )}
      {cut && proven && (
        <Text fontSize="14px" color="ink2" mt="1">
          {sameAs(proven.settings, settings) ? 'As ' : 'Otherwise than '}
          <Link asChild color="steel">
            <RouterLink to={`/book/${proven.recipe}`}>the proven cut of this sheet</RouterLink>
          </Link>
          .
        </Text>
      )}
      <Box>
        <Sentences errors={errors} about="cut_settings" />
        <Sentences errors={errors} about="hang_hole_mm" />
      </Box>
    </Fold>
  )
})
