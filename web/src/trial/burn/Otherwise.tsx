import { Box, Flex, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { Button } from '../../shared/Button'
import { SelectField } from '../../shared/Fields'
import { useSettingsOn, useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import { TypedField } from '../plan/TypedField'
import { useBurn } from './useBurn'

/** Settings as somebody typed them; what is left empty stays as it was planned. */
export type Otherwise = Record<string, string>

interface OtherwiseProps {
  settings: Otherwise
  errors: ReadonlyMap<string, string>
  change: (settings: Otherwise) => void
}

const FIRST = ['speed_mm_s', 'power_pct']

/** What chosen patches get otherwise than they had. */
export function OtherwiseFields({ settings, errors, change }: OtherwiseProps) {
  const { page } = useBurn()
  const { inventory, units } = useShop()
  const [more, setMore] = useState<readonly string[]>(FIRST)
  const planned = page.burned?.patches[0]?.settings ?? {}
  const choices = useSettingsOn(page.head_id, page.process).filter(
    ({ key }) => key in planned && key !== 'passes',
  )
  const others = choices.filter(({ key }) => !more.includes(key))
  const set = (key: string, text: string) =>
    change(
      text === ''
        ? Object.fromEntries(Object.entries(settings).filter(([one]) => one !== key))
        : { ...settings, [key]: text },
    )
  return (
    <Box>
      <Flex gap="2" wrap="wrap" align="flex-end">
        {choices
          .filter(({ key }) => more.includes(key))
          .map((row) => (
            <Box key={row.key} width="104px">
              <Text fontSize="14px" color="ink2">
                {row.name} {unitSign(unitOf(inventory.units, row.quantity, units)?.symbol ?? row.unit)}
              </Text>
              <TypedField
                label={`${row.name} this time`}
                value={settings[row.key] ?? ''}
                parameter={row}
                placeholder="as before"
                _placeholder={{ fontWeight: '400', color: 'ink2' }}
                error={errors.get(`settings.${row.key}`)}
                onType={(text) => set(row.key, text)}
                onLeave={() => undefined}
              />
            </Box>
          ))}
        {others.length > 0 && (
          <SelectField
            label="Another setting this time"
            hideLabel
            compact
            value=""
            onPick={(key) => setMore([...more, key])}
            options={[
              { value: '', label: 'another setting …' },
              ...others.map(({ key, name }) => ({ value: key, label: name })),
            ]}
          />
        )}
      </Flex>
      {[...errors].map(([path, sentence]) => (
        <Text key={path} role="alert" color="emberOnSoft" fontSize="14.5px">
          {sentence}
        </Text>
      ))}
      {Object.keys(settings).length > 0 && (
        <Flex gap="2" align="center" mt="1">
          <Text fontSize="14.5px" color="ink2" flex="1">
            The doses add up; no single setting says it then.
          </Text>
          <Button size="sm" onClick={() => change({})}>
            as before
          </Button>
        </Flex>
      )}
    </Box>
  )
}
