import { Box, CloseButton, Flex, Text } from '@chakra-ui/react'
import { Copy } from 'lucide-react'
import { memo } from 'react'
import type { Design, Parameter } from '../../api/types'
import { Button } from '../../shared/Button'
import { useShop } from '../../shared/ShopContext'
import { unitOf, unitSign } from '../../shared/units'
import { COUNT } from './lengths'
import {
  addOwn,
  dropOwn,
  ownKeys,
  pasteCells,
  removeRow,
  repeatAll,
  repeatRow,
  setRow,
  USUAL_WRAP,
} from './listed'
import { TypedField } from './TypedField'
import type { Change } from './useDesign'

interface ListOfSettingsProps {
  design: Design
  /** What the patches are called, in their order. */
  names: string
  choices: Parameter[]
  active: string | null
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

/** Patches one by one: a line for each, with what is its own; lines can be repeated, and cells pasted from a sheet. */
export const ListOfSettings = memo(function ListOfSettings(props: ListOfSettingsProps) {
  const { design, names, choices, active, errors, change, settle } = props
  const { inventory, units } = useShop()
  const { listed } = design
  if (!listed) return null
  const ids = names.split(' ')
  const keys = ownKeys(design)
  const own = keys.flatMap((key) => choices.filter((choice) => choice.key === key))
  const open = choices.filter((choice) => !keys.includes(choice.key))
  const sentences = [...errors].filter(([path]) => path.startsWith('listed')).map(([, sentence]) => sentence)
  return (
    <Box>
      <Box maxH="420px" overflowY="auto" pr="1" role="table" aria-label="Settings of each patch">
        <Flex role="row" gap="1.5" fontSize="13px" color="ink2" align="center">
          <Box role="columnheader" w="36px" aria-label="Patch" />
          {own.map((parameter) => (
            <Flex role="columnheader" key={parameter.key} flex="1" minW="0" align="center">
              <Text lineHeight="1.15" overflowWrap="anywhere">
                {parameter.name}{' '}
                {unitSign(unitOf(inventory.units, parameter.quantity, units)?.symbol ?? parameter.unit)}
              </Text>
              {own.length > 1 && (
                <CloseButton
                  size="2xs"
                  minW="26px"
                  height="26px"
                  aria-label={`Hold ${parameter.name} for all`}
                  onClick={() => change((now) => dropOwn(now, parameter.key))}
                />
              )}
            </Flex>
          ))}
          <Box w="76px" />
        </Flex>
        {listed.settings.map((row, i) => (
          <Flex role="row" key={i} gap="1.5" mt="1" align="center">
            <Text role="rowheader" w="36px" fontWeight="700" color={ids[i] === active ? 'ember' : 'ink'}>
              {ids[i] ?? i + 1}
            </Text>
            {own.map((parameter) => {
              const path = `listed.settings[${i}].${parameter.key}`
              return (
                <Box role="cell" key={parameter.key} flex="1" minW="0">
                  <TypedField
                    label={`${parameter.name} of ${ids[i] ?? i + 1}`}
                    value={row[parameter.key] ?? design.hold[parameter.key]}
                    parameter={parameter}
                    error={errors.get(path)}
                    onType={(text) => change((now) => setRow(now, i, parameter.key, text), path)}
                    onLeave={settle}
                    onPaste={(event) => {
                      const text = event.clipboardData.getData('text')
                      if (!/[\t\n;]/.test(text.trim())) return
                      event.preventDefault()
                      change((now) => pasteCells(now, text, i, parameter.key))
                      settle()
                    }}
                  />
                </Box>
              )
            })}
            <Flex role="cell" w="76px" gap="0.5">
              <Button
                look="quiet"
                size="sm"
                px="1.5"
                aria-label={`${ids[i] ?? i + 1} once more`}
                onClick={() => change((now) => repeatRow(now, i))}
              >
                <Copy size={15} aria-hidden="true" />
              </Button>
              {listed.settings.length > 1 && (
                <CloseButton
                  size="sm"
                  aria-label={`Take ${ids[i] ?? i + 1} off the list`}
                  onClick={() => change((now) => removeRow(now, i))}
                />
              )}
            </Flex>
          </Flex>
        ))}
      </Box>
      {sentences.map((sentence) => (
        <Text key={sentence} role="alert" color="emberOnSoft" fontSize="13px" mt="1">
          {sentence}
        </Text>
      ))}
      <Flex gap="3" mt="2" align="center" wrap="wrap">
        <Button size="sm" onClick={() => change((now) => repeatRow(now, listed.settings.length - 1))}>
          One more
        </Button>
        <Button size="sm" onClick={() => change(repeatAll)}>
          All once more
        </Button>
        <Flex align="center" gap="1.5" fontSize="14px" color="ink2">
          <Box w="52px">
            <TypedField
              label="Patches in a line"
              value={listed.wrap ?? USUAL_WRAP}
              parameter={COUNT}
              error={errors.get('listed.wrap')}
              onType={(text) =>
                change(
                  (now) => (now.listed ? { ...now, listed: { ...now.listed, wrap: text } } : now),
                  'listed.wrap',
                )
              }
              onLeave={settle}
            />
          </Box>
          in a line
        </Flex>
        {open.length > 0 && (
          <select
            className="add-setting"
            aria-label="Another setting for each"
            value=""
            onChange={(event) => {
              const key = event.currentTarget.value
              change((now) => addOwn(now, key, now.hold[key]))
            }}
          >
            <option value="">another setting for each …</option>
            {open.map((parameter) => (
              <option key={parameter.key} value={parameter.key}>
                {parameter.name}
              </option>
            ))}
          </select>
        )}
      </Flex>
      <Text fontSize="13px" color="ink3" mt="1">
        Cells copied from a sheet can be pasted into any field.
      </Text>
    </Box>
  )
})
