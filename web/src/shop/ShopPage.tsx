import { Box, Flex, Grid, SimpleGrid, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import type { Head } from '../api/types'
import { Card, PageTitle, Section } from '../shared/Parts'
import { KeysHelp } from '../shared/KeysHelp'
import { useProcess, useShop } from '../shared/ShopContext'
import { useParameter } from '../shared/ShopContext'
import { shown } from '../shared/units'
import type { ProcessKey } from '../api/types'

const SOURCES: Record<string, string> = {
  co2_glass: 'CO2 glass tube',
  co2_rf: 'CO2 RF',
  diode: 'diode',
  fibre_q: 'fibre, Q-switched',
  fibre_mopa: 'fibre MOPA',
  uv: 'UV',
  ir_diode: 'IR diode',
}
const AIR: Record<string, string> = {
  none: 'no air',
  on_off: 'air on or off',
  low_high: 'air low or high',
  pressure: 'air by pressure',
}

/** What the shop has: machines, materials with their lots, members. */
export function ShopPage() {
  const { inventory } = useShop()
  return (
    <Box maxW="1160px">
      <PageTitle under={inventory.shop?.demo ? 'A demo shop: everything in it is made up.' : undefined}>
        {inventory.shop?.name ?? 'This shop has not been founded yet'}
      </PageTitle>
      <Section title="Machines" mb="6">
        <SimpleGrid columns={{ base: 1, md: 2 }} gap="4">
          {inventory.heads.map((head) => (
            <MachineCard key={head.id} head={head} />
          ))}
        </SimpleGrid>
      </Section>
      <Section title="Materials" mb="6">
        <Grid templateColumns={{ base: '1fr', md: '1fr 1fr' }} gap="2.5">
          {inventory.materials.map((material) => (
            <Card key={material.id} p="3">
              <Flex justify="space-between" gap="3" wrap="wrap">
                <Text fontWeight="600" fontSize="17px">
                  {material.title}
                </Text>
                <Text color="ink2">{material.family}</Text>
              </Flex>
              <Text color="ink2" fontSize="15px">
                {material.processes.map((key, i) => (
                  <span key={key}>
                    {i > 0 && ' · '}
                    <ProcessName process={key} />
                  </span>
                ))}
                {material.hazards.length > 0 && ` · mind: ${material.hazards.join(', ')}`}
              </Text>
              {inventory.lots
                .filter((lot) => lot.material_id === material.id)
                .map((lot) => (
                  <Text key={lot.id} fontSize="15px">
                    Lot {lot.name}
                    {lot.measured_mm !== null && `, ${lot.measured_mm} mm measured`}
                  </Text>
                ))}
              <RouterLink
                to={`/trials?material=${material.id}`}
                style={{ textDecoration: 'underline', fontSize: 15 }}
              >
                its plates
              </RouterLink>
            </Card>
          ))}
        </Grid>
      </Section>
      <Section title="Members">
        <Flex gap="2.5" wrap="wrap">
          {inventory.members.map((member) => (
            <Card key={member.id} p="3" minW="180px">
              <Text fontWeight="600">{member.name}</Text>
              <Text color="ink2">{member.role}</Text>
            </Card>
          ))}
        </Flex>
      </Section>
      <KeysHelp hints={[]} />
    </Box>
  )
}

function ProcessName({ process }: { process: ProcessKey }) {
  return <>{useProcess(process).name.toLowerCase()}</>
}

function MachineCard({ head }: { head: Head }) {
  const { inventory, units } = useShop()
  const speed = useParameter()('speed_mm_s')
  const { machine_facts: machine, facts } = head
  const top = shown(machine.max_speed_mm_s, speed, inventory.units, units)
  const lines = [
    `${SOURCES[machine.source] ?? machine.source}, ${machine.rated_power_w} W, ${machine.wavelength_nm} nm, ${machine.motion}`,
    `field ${machine.field_width_mm} x ${machine.field_height_mm} mm, up to ${top.value} ${top.unit}`,
    `fires from ${machine.firing_floor_pct} %, at most ${machine.max_power_pct} %, ${AIR[machine.air] ?? machine.air}`,
    machine.frequency_khz ? `frequency ${machine.frequency_khz.join(' to ')} kHz` : null,
    [
      facts.name,
      facts.spot_mm && `spot ${facts.spot_mm} mm`,
      facts.focal_mm && `focal length ${facts.focal_mm} mm`,
    ]
      .filter(Boolean)
      .join(', '),
  ].filter(Boolean)
  return (
    <Card p="4">
      <Text fontWeight="700" fontSize="20px">
        {head.title}
      </Text>
      {lines.map((line) => (
        <Text key={line} color="ink2">
          {line}
        </Text>
      ))}
      <RouterLink to={`/trials?head=${head.id}`} style={{ textDecoration: 'underline', fontSize: 15 }}>
        its plates
      </RouterLink>
    </Card>
  )
}
