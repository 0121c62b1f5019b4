import { Flex, Text } from '@chakra-ui/react'
import type { Design, Parameter, Patch } from '../../api/types'
import { doseOf } from '../../plate/DoseRail'
import { Button } from '../../shared/Button'
import { Card } from '../../shared/Parts'
import { useInMyUnits } from '../../shared/ShopContext'
import { setByHand } from './design'
import { FigureField } from './FigureField'
import type { Change } from './useDesign'

interface ActivePatchProps {
  patch: Patch | undefined
  overrides: Design['overrides']
  /** The settings that vary: what may be set by hand here. */
  varied: Parameter[]
  unit: string
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
  onToggle: (id: string) => void
}

/** One patch: what it gets, set by hand where that is wanted, and what is to be said of it. */
export function ActivePatch(props: ActivePatchProps) {
  const inMyUnits = useInMyUnits()
  const { patch, overrides, varied, unit, errors, change, settle, onToggle } = props
  if (!patch) return null
  const mine = overrides?.[patch.id] ?? {}
  return (
    <Card p="3">
      <Flex align="baseline" gap="3" wrap="wrap">
        <Text fontWeight="700" fontSize="19px">
          {patch.id}
        </Text>
        <Text>
          {doseOf(patch).toPrecision(3)} {unit} · {patch.seconds.toFixed(1)} s
        </Text>
        <Button look="link" size="sm" ml="auto" onClick={() => onToggle(patch.id)}>
          {patch.burn ? 'Leave it out' : 'Take it in again'}
        </Button>
      </Flex>
      <Flex gap="2" mt="1">
        {varied.map((parameter) => (
          <FigureField
            key={parameter.key}
            name={parameter.key in mine ? `${parameter.name}, by hand,` : parameter.name}
            label={`${parameter.name} of ${patch.id}`}
            value={mine[parameter.key] ?? patch.settings[parameter.key]}
            parameter={parameter}
            error={errors.get(`overrides.${patch.id}.${parameter.key}`)}
            onType={(text) =>
              change(
                (design) => setByHand(design, patch.id, parameter.key, text.trim() === '' ? null : text),
                `overrides.${patch.id}.${parameter.key}`,
              )
            }
            onLeave={settle}
          />
        ))}
      </Flex>
      {patch.set_by_hand.length > 0 && (
        <Button
          look="link"
          size="sm"
          onClick={() =>
            change((design) =>
              patch.set_by_hand.reduce((now, key) => setByHand(now, patch.id, key, null), design),
            )
          }
        >
          Give it back to the axes
        </Button>
      )}
      {patch.corner_rise > 1.05 && (
        <Text fontSize="14px" color="ink2">
          Corners get {patch.corner_rise.toPrecision(2)} times the dose: the head slows over{' '}
          {patch.corner_slowing_mm.toPrecision(2)} mm.
        </Text>
      )}
      {patch.warnings.map((warning) => (
        <Text key={warning.sentence} fontSize="14px" color="emberOnSoft">
          {inMyUnits(warning.sentence)}
        </Text>
      ))}
    </Card>
  )
}
