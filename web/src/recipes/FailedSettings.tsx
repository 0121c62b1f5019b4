import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { X } from 'lucide-react'
import { Link as RouterLink } from 'react-router'
import { answer, api } from '../api/client'
import { useForgetLists } from '../api/hooks'
import type { FailedSetting } from '../api/types'
import { Button } from '../shared/Button'
import { Section } from '../shared/Parts'
import { useParameter, useParametersOn, useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { shown } from '../shared/units'
import { day, otherSettings, trialName } from '../shared/words'

interface FailedSettingsProps {
  failed: FailedSetting[]
  /** On the page of its own plate: material and machine go without saying. */
  here?: boolean
}

/** What was burned and failed: seen, so that nobody burns it again, and never an answer. */
export function FailedSettings({ failed, here = false }: FailedSettingsProps) {
  const { me } = useShop()
  const takeBack = useTakeBackFailed()
  if (failed.length === 0) return null
  return (
    <Section title="Failed at these settings">
      <Box role="list" borderTopWidth="1px" borderColor="line">
        {failed.map((one) => (
          <Flex
            key={one.id}
            role="listitem"
            gap="3"
            py="1.5"
            align="baseline"
            wrap="wrap"
            borderBottomWidth="1px"
            borderColor="line"
          >
            <Flex gap="1.5" align="baseline" color="emberOnSoft" fontWeight="600" minW="110px">
              <X size={15} aria-hidden="true" style={{ alignSelf: 'center' }} />
              {one.came_out ?? 'failed'}
            </Flex>
            <Box flex="1" minW="240px" fontSize="15px">
              <FailedWords one={one} here={here} />
            </Box>
            <Text color="ink2" fontSize="14px">
              <Link asChild textDecoration="underline">
                <RouterLink to={`/trials/${one.trial_id}/decide?burn=${one.burn_id}&patch=${one.patch}`}>
                  {trialName(one.trial_number)}, {one.patch}
                </RouterLink>
              </Link>{' '}
              · {one.by_name}, {day(one.at)}
            </Text>
            {(one.by_member === me.id || me.may_prove) && (
              <Button
                look="link"
                size="xs"
                aria-label={`Take back that ${trialName(one.trial_number)}, ${one.patch} failed`}
                loading={takeBack.isPending && takeBack.variables === one.id}
                onClick={() => takeBack.mutate(one.id)}
              >
                take back
              </Button>
            )}
          </Flex>
        ))}
      </Box>
    </Section>
  )
}

function FailedWords({ one, here }: { one: FailedSetting; here: boolean }) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(one.head_id)
  const parameter = useParameter()
  const at = (key: string) => {
    const { value, unit } = shown(one.settings[key] ?? 0, parameter(key), inventory.units, units)
    return `${value} ${unit}`
  }
  const others = otherSettings(one.settings, parameters, inventory.units, units)
  return (
    <>
      {at('speed_mm_s')}, {at('power_pct')}
      {others && ` · ${others}`}
      <Text as="span" color="ink2">
        {' '}
        {!here && `· ${one.material} on ${one.head}`}
        {one.note && ` · ${one.note}`}
      </Text>
    </>
  )
}

export function useTakeBackFailed(then?: () => void) {
  const forget = useForgetLists()
  return useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/failed-settings/{id}', { params: { path: { id } } })),
    onSuccess: async () => {
      await forget()
      then?.()
      sayDone('Taken back.')
    },
    onError: sayFailed,
  })
}
