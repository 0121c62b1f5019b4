import { Box, Text } from '@chakra-ui/react'
import type { Check, StandOff } from '../../api/types'
import { StandOffLine } from '../../recipes/StandOffCard'
import { useInMyUnits } from '../../shared/ShopContext'

/** What to see to before a burn, the gravest first. */
export function Checklist({ checks, stands }: { checks: Check[]; stands: StandOff | null }) {
  const inMyUnits = useInMyUnits()
  return (
    <Box as="ul" listStyleType="none" aria-label="Before the start">
      {checks.map((check) => (
        <Box
          as="li"
          key={check.key}
          display="flex"
          gap="2"
          py="1"
          borderBottomWidth="1px"
          borderColor="line"
          fontSize="14.5px"
          fontWeight={check.grave ? '600' : '400'}
        >
          <Text as="span" color={check.grave ? 'emberOnSoft' : 'ink2'} aria-hidden="true">
            {check.grave ? '▲' : '•'}
          </Text>
          {check.key === 'stand_off' && stands ? (
            <StandOffLine stands={stands} named={false} />
          ) : (
            inMyUnits(check.sentence)
          )}
        </Box>
      ))}
    </Box>
  )
}

interface ConfirmProps {
  label: string
  checked: boolean
  onChange: (checked: boolean) => void
}

/** One tick of a large box. */
export function Confirm({ label, checked, onChange }: ConfirmProps) {
  return (
    <Box
      as="label"
      display="flex"
      alignItems="center"
      gap="2.5"
      minH="44px"
      fontWeight="600"
      cursor="pointer"
    >
      <input
        type="checkbox"
        checked={checked}
        onChange={(event) => onChange(event.currentTarget.checked)}
        className="big-tick"
      />
      {label}
    </Box>
  )
}
