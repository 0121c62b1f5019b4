import { Flex, Text } from '@chakra-ui/react'
import type { Design } from '../../api/types'
import { TextField } from '../../shared/Fields'
import { FigureField } from './FigureField'
import { LENGTH } from './lengths'

type Slots = NonNullable<Design['patch']['slots']>

interface SlotsFieldsProps {
  slots: Slots
  errors: ReadonlyMap<string, string>
  onSlots: (slots: Slots, field: string) => void
  settle: () => void
}

/** The tab and its slots as they are drawn; another tab has slots of its own. */
export function SlotsFields({ slots, errors, onSlots, settle }: SlotsFieldsProps) {
  return (
    <>
      <Flex gap="2" mt="2" align="flex-end">
        <FigureField
          name="tab"
          label="Width of the tab"
          value={slots.tab_mm}
          parameter={LENGTH}
          error={errors.get('patch.slots.tab_mm')}
          onType={(text) => onSlots({ tab_mm: text }, 'patch.slots.tab_mm')}
          onLeave={settle}
        />
        <TextField
          label="Slots, narrow to wide, mm"
          value={Array.isArray(slots.widths_mm) ? slots.widths_mm.join(', ') : (slots.widths_mm ?? '')}
          placeholder="as usual"
          onChange={({ currentTarget }) =>
            onSlots({ ...slots, widths_mm: currentTarget.value || undefined }, 'patch.slots')
          }
        />
      </Flex>
      <Text fontSize="13.5px" color="ink2" mt="1">
        Where the tab fits a slot, the cut is half as wide as they differ.
      </Text>
    </>
  )
}
