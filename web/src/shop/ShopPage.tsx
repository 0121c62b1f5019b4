import { Box, Flex } from '@chakra-ui/react'
import { Choice } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { PageTitle } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { Address } from './Address'
import { Backups } from './Backups'
import { ClearDemo } from './ClearDemo'
import { Figures } from './Figures'
import { Jobs } from './Jobs'
import { Log } from './Log'
import { Machines } from './Machines'
import { Materials } from './Materials'
import { Members } from './Members'
import { useAddress } from '../shared/useAddress'

const PARTS = [
  { value: 'machines', label: 'Machines' },
  { value: 'materials', label: 'Materials' },
  { value: 'figures', label: 'Figures' },
  { value: 'members', label: 'Members' },
  { value: 'log', label: 'Who did what' },
  { value: 'address', label: 'Address' },
  { value: 'safe', label: 'Backup' },
]

/** What the shop has, part by part; the part stands in the address. */
export function ShopPage() {
  const { inventory } = useShop()
  const [search, setSearch] = useAddress()
  const part = PARTS.find((one) => one.value === search.get('part'))?.value ?? 'machines'
  const retired = search.get('retired') === '1'
  const go = (next: Record<string, string>) => setSearch({ part, ...next })
  return (
    <Box maxW="1160px">
      <PageTitle under={inventory.shop?.demo ? 'A demo shop: everything in it is made up.' : undefined}>
        {inventory.shop?.name}
      </PageTitle>
      <Flex gap="4" mb="4" wrap="wrap" align="center">
        <Choice
          label="Part of the shop"
          value={part}
          onPick={(value) => go({ part: value })}
          options={PARTS}
        />
        {['machines', 'materials', 'members'].includes(part) && (
          <label style={{ display: 'inline-flex', gap: 7, alignItems: 'center', minHeight: 34 }}>
            <input
              type="checkbox"
              checked={retired}
              style={{ width: 18, height: 18 }}
              onChange={(event) => go(event.currentTarget.checked ? { retired: '1' } : {})}
            />
            {part === 'members' ? 'those who left' : 'retired ones'}
          </label>
        )}
      </Flex>
      {part === 'machines' && <Machines retired={retired} />}
      {part === 'materials' && <Materials retired={retired} />}
      {part === 'figures' && <Figures />}
      {part === 'members' && <Members retired={retired} />}
      {part === 'log' && (
        <>
          <Jobs />
          <Log />
        </>
      )}
      {part === 'address' && <Address />}
      {part === 'safe' && <Backups />}
      {inventory.shop?.demo && <ClearDemo />}
      <KeysHelp hints={[]} />
    </Box>
  )
}
