import { Box, Flex, Text } from '@chakra-ui/react'
import { useParams } from 'react-router'
import { useTrial } from '../api/hooks'
import type { TrialPageData } from '../api/types'
import { variedKeys } from '../plate/varied'
import { Button } from '../shared/Button'
import { Choice } from '../shared/Fields'
import { Failure, Nothing, Waiting } from '../shared/Parts'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { day } from '../shared/words'
import { Code } from './Code'
import { useAddress } from '../shared/useAddress'
import './print.css'

const LATEST = { burn: null, step: null }

/** Two sizes that label printers and sheets of labels have: width and height in mm, and the side of the code. */
const SIZES = {
  label: { width: 70, height: 36, code: 26 },
  sticker: { width: 38, height: 21, code: 16 },
} as const
type Size = keyof typeof SIZES

/** What is stuck on a burned plate: its code, and what it is. */
export function PrintPlate() {
  const id = Number(useParams().id)
  const [search, setSearch] = useAddress()
  const trial = useTrial(id, LATEST)
  if (!Number.isInteger(id)) return <Nothing>There is no such trial.</Nothing>
  if (trial.isError) return <Failure error={trial.error} retry={() => void trial.refetch()} />
  if (!trial.data) return <Waiting what="the label" height="200px" />
  const size: Size = search.get('size') === 'sticker' ? 'sticker' : 'label'
  const { width, height } = SIZES[size]
  return (
    <Box>
      <style>{`@page { size: ${width}mm ${height}mm; margin: 0 }`}</style>
      <Flex className="screen-only" gap="3" mb="4" align="center" wrap="wrap">
        <Button look="ember" onClick={() => window.print()}>
          Print
        </Button>
        <Choice
          label="Size"
          value={size}
          onPick={(picked) => setSearch({ size: picked }, { replace: true })}
          options={(Object.keys(SIZES) as Size[]).map((key) => ({
            value: key,
            label: `${key}, ${SIZES[key].width} x ${SIZES[key].height} mm`,
          }))}
        />
        <Text color="ink2">At its true size, without margins.</Text>
      </Flex>
      <Label page={trial.data} size={size} />
    </Box>
  )
}

function Label({ page, size }: { page: TrialPageData; size: Size }) {
  const { width, height, code } = SIZES[size]
  const small = size === 'sticker'
  return (
    <Box
      className="label"
      style={{ width: `${width}mm`, height: `${height}mm`, padding: '1.5mm' }}
      role="main"
    >
      <Code place={`/trials/${page.id}`} size={`${code}mm`} />
      <Box minW="0" flex="1">
        <Text as="h1" fontWeight="700" fontSize={small ? '8pt' : '13pt'}>
          {page.code}
        </Text>
        <Text fontWeight="600" fontSize={small ? '6.5pt' : '9pt'}>
          {page.material}
        </Text>
        {small ? (
          <Text fontSize="6pt">{page.head}</Text>
        ) : (
          <>
            {page.name && <Text fontSize="8pt">{page.name}</Text>}
            <Text fontSize="8pt">
              {page.process_name} on {page.head}
            </Text>
            <Ranges page={page} />
            <Text fontSize="7pt">
              {page.burn
                ? `burned ${day(page.burn.at)}, ${page.burn.by_name}`
                : `planned ${day(page.at)}, ${page.author}`}
              {page.burn?.lot && `, ${page.burn.lot}`}
            </Text>
          </>
        )}
      </Box>
    </Box>
  )
}

/** What varies on it, from where to where. */
function Ranges({ page }: { page: TrialPageData }) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const plate = page.burned ?? page.plate
  if (!plate) return null
  return variedKeys(plate.trial).map((key) => {
    const row = parameter(key)
    const values = plate.patches.map((patch) => patch.settings[key] ?? 0)
    const low = shown(Math.min(...values), row, inventory.units, units)
    const high = shown(Math.max(...values), row, inventory.units, units)
    return (
      <Text key={key} fontSize="7pt">
        {row.name} {low.value} to {high.value} {high.unit}
      </Text>
    )
  })
}
