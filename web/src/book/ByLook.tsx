import { Box, Flex, Grid, Text, Link } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import { flatUrl, useLooks } from '../api/photos'
import type { Look, Looks, ProcessKey } from '../api/types'
import { PlanAroundPatch } from '../recipes/PlanAround'
import { PatchCrop } from '../plate/PatchCrop'
import type { Filter } from '../shared/EquipmentFilter'
import { EquipmentFilter } from '../shared/EquipmentFilter'
import { Choice } from '../shared/Fields'
import { Card, Failure, Nothing, Numeral, Waiting } from '../shared/Parts'
import { useParameter, useParametersOn, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { otherSettings, trialName } from '../shared/words'
import { anyGround } from '../theme/palette'
import { alike, asShade, labCss } from '../shared/shades'

/** Choose a shade on a real plate, or any colour, and get the settings that came nearest to it. */
export function ByLook({ filter, process }: { filter: Filter; process: ProcessKey | null }) {
  const shade = filter.shade
  const { darknessOnly } = filter
  const looks = useLooks({ shade, darknessOnly, head: filter.head, material: filter.material, process })
  return (
    <Box>
      <Flex gap="3" wrap="wrap" mb="3" align="center">
        <EquipmentFilter filter={filter} />
        <Flex as="label" align="center" gap="2" fontSize="15px">
          Any colour
          <input
            type="color"
            value={shade?.startsWith('#') ? shade : anyGround.toLowerCase()}
            onChange={(event) => filter.set('shade', event.currentTarget.value)}
            style={{ width: 44, height: 36, padding: 0, border: 0, background: 'none', cursor: 'pointer' }}
          />
        </Flex>
        <Choice
          label="What has to be alike"
          value={darknessOnly ? 'darkness' : 'colour'}
          onPick={(only) => filter.set('only', only === 'darkness' ? only : '')}
          options={[
            { value: 'colour', label: 'Colour and darkness' },
            { value: 'darkness', label: 'Darkness only' },
          ]}
        />
      </Flex>
      {looks.isError && <Failure error={looks.error} retry={() => void looks.refetch()} />}
      {!looks.data && !looks.isError && <Waiting what="the shades" height="200px" />}
      {looks.data && looks.data.total === 0 && (
        <Nothing>
          No marked plate has been photographed here yet. Burn one, drop its photo anywhere, and its shades
          appear.
        </Nothing>
      )}
      {looks.data && looks.data.total > 0 && (
        <Grid templateColumns={{ base: '1fr', lg: '330px minmax(0, 1fr)' }} gap="6" alignItems="start">
          <Shades looks={looks.data} shade={shade} onPick={(next) => filter.set('shade', next)} />
          <Nearest looks={looks.data} shade={shade} darknessOnly={darknessOnly} />
        </Grid>
      )}
    </Box>
  )
}

interface ShadesProps {
  looks: Looks
  shade: string | null
  onPick: (shade: string) => void
}

/** Every shade the shop has burned, from dark to light. */
function Shades({ looks, shade, onPick }: ShadesProps) {
  return (
    <Card p="4">
      <Text fontWeight="600" mb="2">
        {looks.total} shades on real plates, dark to light
      </Text>
      <Flex wrap="wrap" gap="1" role="group" aria-label="Shades">
        {looks.shades.map(({ trial_id, patch, lab }) => {
          const value = asShade(lab)
          return (
            <Box
              as="button"
              key={`${trial_id} ${patch}`}
              aria-label={`Shade of L* ${(lab[0] ?? 0).toFixed(0)}, ${patch} of trial ${trial_id}`}
              aria-pressed={shade === value}
              width={{ base: '44px', lg: '32px' }}
              height={{ base: '44px', lg: '32px' }}
              borderRadius="6px"
              borderWidth={shade === value ? '3px' : '1px'}
              borderColor={shade === value ? 'ink' : 'lineStrong'}
              cursor="pointer"
              style={{ background: labCss(lab) }}
              onClick={() => onPick(value)}
            />
          )
        })}
      </Flex>
    </Card>
  )
}

interface NearestProps {
  looks: Looks
  shade: string | null
  darknessOnly: boolean
}

function Nearest({ looks, shade, darknessOnly }: NearestProps) {
  if (!shade) {
    return (
      <Nothing>
        Pick the shade you want. Here stand then the patches that look most like it, with what they were
        burned with.
      </Nothing>
    )
  }
  return (
    <Grid
      templateColumns="repeat(auto-fill, minmax(276px, 1fr))"
      gap="3"
      role="list"
      aria-label="Nearest patches"
    >
      {looks.nearest.map((look) => (
        <LookCard key={`${look.photo_id} ${look.patch}`} look={look} darknessOnly={darknessOnly} />
      ))}
    </Grid>
  )
}

function LookCard({ look, darknessOnly }: { look: Look; darknessOnly: boolean }) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(look.head_id)
  const parameter = useParameter()
  const large = ['speed_mm_s', 'power_pct']
  return (
    <Card p="3" role="listitem">
      <Flex gap="3">
        <Box width="76px" flexShrink="0">
          <PatchCrop
            href={flatUrl({ id: look.photo_id, edit: look.photo_edit })}
            plate={look.plate}
            box={look.box}
            label={`${look.patch} of ${trialName(look.number)}`}
            around={1.25}
          />
        </Box>
        <Box minW="0">
          <Text fontWeight="600" fontSize="15px">
            {alike(look.difference, darknessOnly)}
          </Text>
          <Text fontSize="13.5px" color="ink2" title="CIEDE2000: below 1 nobody sees a difference">
            differs by {look.difference.toFixed(1)}
            {look.ground_assumed && ', colour rough'}
          </Text>
          <Flex columnGap="2" mt="1" wrap="wrap">
            {large.map((key) => {
              const value = look.settings[key]
              if (value === undefined) return null
              const said = shown(value, parameter(key), inventory.units, units)
              return <Numeral key={key} size="s" value={said.value} unit={said.unit} others={said.others} />
            })}
          </Flex>
        </Box>
      </Flex>
      <Text fontSize="14px" color="ink2" mt="1.5">
        {otherSettings(look.settings, parameters, inventory.units, units, new Set(large))}
      </Text>
      <Text fontSize="14.5px" mt="1">
        {look.material}, {look.process_name.toLowerCase()} on {look.head}:{' '}
        <RouterLink
          to={`/trials/${look.trial_id}/read?burn=${look.burn_id}&patch=${look.patch}`}
          style={{ textDecoration: 'underline' }}
        >
          {look.patch} of {trialName(look.number)}
        </RouterLink>
      </Text>
      <Flex gap="3" mt="2" align="center">
        <PlanAroundPatch burn={look.burn_id} patch={look.patch} />
        {look.recipe_id !== null && (
          <Link asChild color="emberOnSoft" fontWeight="600">
            <RouterLink to={`/book/${look.recipe_id}`}>Its recipe</RouterLink>
          </Link>
        )}
      </Flex>
    </Card>
  )
}
