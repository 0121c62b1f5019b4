import { useOpenForm } from '../shared/useTabState'
import { Box, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import type { Head, Machine } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { Card, Nothing } from '../shared/Parts'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { EquipmentForm } from '../forms/EquipmentForm'
import { NewMachine, useFollowSource } from '../forms/NewMachine'
import { headFacts, headFields, machineFacts, machineFields } from '../forms/fields'
import { RetireButton } from './RetireButton'

/** The machines with their heads; each card turns into its own form. */
export function Machines({ retired }: { retired: boolean }) {
  const { inventory, me } = useShop()
  const [adding, setAdding] = useOpenForm('machine')
  const machines = inventory.machines.filter((one) => one.retired === retired)
  return (
    <Box>
      {machines.length === 0 && !adding && (
        <Nothing>{retired ? 'No machine is retired.' : 'No machines yet. Add the first one.'}</Nothing>
      )}
      <SimpleGrid columns={{ base: 1, lg: 2 }} gap="4" alignItems="start">
        {machines.map((machine) => (
          <MachineCard key={machine.id} machine={machine} />
        ))}
        {adding && (
          <Card p="4">
            <NewMachine onDone={() => setAdding(false)} />
          </Card>
        )}
      </SimpleGrid>
      <Box mt="3">
        {me.may_prove && !adding && !retired && (
          <Button onClick={() => setAdding(true)} look={machines.length === 0 ? 'ember' : 'quiet'}>
            Add a machine
          </Button>
        )}
        <AskSomebody least="technician" to="add or change machines" />
      </Box>
    </Box>
  )
}

function MachineCard({ machine }: { machine: Machine }) {
  const { inventory, me } = useShop()
  const follow = useFollowSource()
  const [editing, setEditing] = useOpenForm(`machine.${machine.id}`)
  const [addingHead, setAddingHead] = useOpenForm(`head-of.${machine.id}`)
  const heads = inventory.heads.filter((head) => head.machine_id === machine.id)
  if (editing) {
    return (
      <Card p="4" borderColor="steel">
        <EquipmentForm
          kind="machine"
          row={machine}
          stored={machineFacts(machine)}
          fields={(values) => machineFields(inventory, String(values.source), String(values.motion))}
          follow={(key, values) =>
            key === 'source'
              ? { ...values, wavelength_nm: String(follow(key, values).wavelength_nm ?? '') }
              : values
          }
          onDone={() => setEditing(false)}
        >
          <RetireButton
            kind="machine"
            row={machine}
            facts={machineFacts(machine)}
            onDone={() => setEditing(false)}
          />
        </EquipmentForm>
      </Card>
    )
  }
  return (
    <Card p="4" opacity={machine.retired ? 0.75 : 1}>
      <Flex justify="space-between" gap="3" align="flex-start">
        <Text fontWeight="700" fontSize="20px">
          {machine.name}
        </Text>
        {me.may_prove && (
          <Button size="sm" onClick={() => setEditing(true)} aria-label={`Change ${machine.name}`}>
            Change
          </Button>
        )}
      </Flex>
      <MachineWords machine={machine} />
      {machine.note && (
        <Text mt="1" whiteSpace="pre-wrap">
          {machine.note}
        </Text>
      )}
      <Box mt="3">
        {heads.map((head) => (
          <HeadLine key={head.id} head={head} machine={machine} several={heads.length > 1} />
        ))}
        {addingHead && (
          <Box mt="2" pt="3" borderTopWidth="1px" borderColor="line">
            <EquipmentForm
              kind="head"
              row={null}
              stored={{ machine_id: machine.id }}
              fields={() => headFields(inventory, machine)}
              onDone={() => setAddingHead(false)}
            />
          </Box>
        )}
      </Box>
      <Flex gap="4" mt="3" wrap="wrap" align="center" fontSize="15px">
        <RouterLink to={`/print/wall/${machine.id}`} style={{ textDecoration: 'underline' }}>
          wall card
        </RouterLink>
        {me.may_prove && !addingHead && !machine.retired && (
          <Button look="link" size="sm" onClick={() => setAddingHead(true)}>
            add a head or lens
          </Button>
        )}
      </Flex>
    </Card>
  )
}

function MachineWords({ machine }: { machine: Machine }) {
  const { inventory, units } = useShop()
  const speed = useParameter()('speed_mm_s')
  const { facts } = machine
  const source = inventory.forms.sources.find((one) => one.key === facts.source)
  const air = inventory.forms.airs.find((one) => one.key === facts.air)
  const airWords = air?.levels === 1 ? air.name : `air ${air?.name ?? facts.air}`
  const top = shown(facts.max_speed_mm_s, speed, inventory.units, units)
  const lines = [
    `${source?.name ?? facts.source}, ${facts.rated_power_w} W, ${facts.wavelength_nm} nm, ${facts.motion}`,
    `field ${facts.field_width_mm} × ${facts.field_height_mm} mm, up to ${top.value} ${top.unit}`,
    `fires from ${facts.firing_floor_pct} %, at most ${facts.max_power_pct} %, ${airWords}`,
    facts.frequency_khz ? `frequency ${facts.frequency_khz.join(' to ')} kHz` : null,
    facts.pulse_widths ? `pulses of ${facts.pulse_widths.map((one) => one.ns).join(', ')} ns` : null,
    machine.link ? `live link at ${machine.link}` : null,
  ]
  return lines.filter(Boolean).map((line) => (
    <Text key={line} color="ink2">
      {line}
    </Text>
  ))
}

function HeadLine({ head, machine, several }: { head: Head; machine: Machine; several: boolean }) {
  const { inventory, me } = useShop()
  const [editing, setEditing] = useOpenForm(`head.${head.id}`)
  const { facts } = head
  if (editing) {
    return (
      <Box py="3" borderTopWidth="1px" borderColor="line">
        <EquipmentForm
          kind="head"
          row={head}
          stored={headFacts(head)}
          fields={() => headFields(inventory, machine)}
          onDone={() => setEditing(false)}
        >
          {several && (
            <RetireButton kind="head" row={head} facts={headFacts(head)} onDone={() => setEditing(false)} />
          )}
        </EquipmentForm>
      </Box>
    )
  }
  const words = [
    facts.spot_mm && `spot ${facts.spot_mm} mm`,
    facts.focal_mm && `focal length ${facts.focal_mm} mm`,
    facts.field_width_mm && `field ${facts.field_width_mm} × ${facts.field_height_mm ?? '?'} mm`,
    head.retired && !machine.retired && 'retired',
  ].filter(Boolean)
  return (
    <Flex justify="space-between" align="center" gap="3" py="1.5" borderTopWidth="1px" borderColor="line">
      <Text>
        <strong>{head.name || 'head'}</strong>
        {words.length > 0 && `, ${words.join(', ')}`} ·{' '}
        <RouterLink to={`/trials?head=${head.id}`} style={{ textDecoration: 'underline' }}>
          plates
        </RouterLink>
      </Text>
      {me.may_prove && (
        <Button
          look="link"
          size="sm"
          onClick={() => setEditing(true)}
          aria-label={`Change ${head.name || 'the head'} of ${machine.name}`}
        >
          change
        </Button>
      )}
    </Flex>
  )
}
