import { Box, CloseButton, Flex, SimpleGrid, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { Design, Head, Parameter } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import { AirPick } from './AirPick'
import { TypedField } from './TypedField'
import type { Change } from './useDesign'
import { useFirstAxis } from './useFirstAxis'

interface HeldSettingsProps {
  hold: Design['hold']
  /** Keys of the settings that vary, joined so that they compare by value. */
  varied: string
  /** What the last good plan holds, defaults included, as JSON. */
  planned: string
  choices: Parameter[]
  head: Head
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** Everything that does not vary: fields for what is set, and a way to set more. */
export const HeldSettings = memo(function HeldSettings(props: HeldSettingsProps) {
  const { hold, choices, head, errors, change, settle } = props
  const { inventory, units } = useShop()
  const ask = useFirstAxis()
  const varied = new Set(props.varied.split(' '))
  const planned: Record<string, number> = JSON.parse(props.planned)
  const held = choices.filter(
    (choice) => !varied.has(choice.key) && (choice.key in hold || choice.key in planned),
  )
  const open = choices.filter((choice) => !varied.has(choice.key) && !held.includes(choice))
  const set = (key: string, value: string | number) =>
    change((design) => ({ ...design, hold: { ...design.hold, [key]: value } }), `hold.${key}`)
  const release = (key: string) =>
    change((design) => {
      const rest = { ...design.hold }
      delete rest[key]
      return { ...design, hold: rest }
    })
  return (
    <>
      <SimpleGrid columns={3} gap="2">
        {held.map((parameter) => {
          const error = errors.get(`hold.${parameter.key}`)
          const sign = unitSign(unitOf(inventory.units, parameter.quantity, units)?.symbol ?? '')
          const given = parameter.key in hold
          return (
            <Box key={parameter.key}>
              <Flex justify="space-between" align="center" fontSize="13px" color="ink2" height="22px">
                <Text truncate title={parameter.name}>
                  {parameter.name} {sign}
                </Text>
                {given && parameter.default === null && !parameter.needed && (
                  <CloseButton
                    size="2xs"
                    minW="26px"
                    height="26px"
                    aria-label={`Do not set ${parameter.name}`}
                    onClick={() => release(parameter.key)}
                  />
                )}
              </Flex>
              {parameter.key === 'air_level' ? (
                <AirPick
                  label="air"
                  value={String(hold[parameter.key])}
                  head={head}
                  onPick={(level) => set(parameter.key, Number(level))}
                />
              ) : (
                <TypedField
                  label={parameter.name}
                  value={hold[parameter.key] ?? planned[parameter.key]}
                  parameter={parameter}
                  error={error}
                  onType={(text) => set(parameter.key, text)}
                  onLeave={settle}
                  color={given ? 'ink' : 'ink2'}
                />
              )}
              {error && (
                <Text role="alert" color="emberOnSoft" fontSize="13px">
                  {error}
                </Text>
              )}
            </Box>
          )
        })}
      </SimpleGrid>
      {open.length > 0 && (
        <select
          className="add-setting"
          aria-label="Set another setting"
          value=""
          onChange={(event) => {
            const chosen = open.find((choice) => choice.key === event.currentTarget.value)
            if (chosen) ask(hold, chosen.key, 'x', (first) => set(chosen.key, first.held))
          }}
        >
          <option value="">set another …</option>
          {open.map((parameter) => (
            <option key={parameter.key} value={parameter.key}>
              {parameter.name}
            </option>
          ))}
        </select>
      )}
    </>
  )
})
