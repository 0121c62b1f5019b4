import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import type { Comparable, Face } from '../api/types'
import { ARROWS, neighbour } from '../plate/geometry'
import { Choice, SelectField } from '../shared/Fields'
import { KeysHelp } from '../shared/KeysHelp'
import { Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { useParameter, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { dayAndTime, patchesOf, trialName } from '../shared/words'
import { SideColumn } from './SideColumn'
import { MOST_SIDES, heldApart, matched, readSides, variedOn, writeSides } from './sides'
import type { SideKey } from './sides'
import { useComparable, useSides } from './useSides'
import type { Side } from './useSides'
import { useAddress } from '../shared/useAddress'

/** Two to four plates side by side, the same patch on all of them under the loupe. */
export function ComparePage() {
  const [search, setSearch] = useAddress()
  const keys = readSides(search.get('sides'))
  const { sides, failed, waiting } = useSides(keys)
  const comparable = useComparable(keys[0]?.burn)
  const set = (key: string, value: string) =>
    setSearch(
      (before) => {
        before.set(key, value)
        return before
      },
      { replace: true },
    )
  const put = (next: SideKey[]) => set('sides', writeSides(next))
  if (keys.length === 0) return <Nothing>Open a plate in Read and press k to lay others beside it.</Nothing>
  if (failed) return <Failure error={failed.error} retry={() => void failed.refetch()} />
  return (
    <Box>
      <Flex gap="4" wrap="wrap" align="center" mb="3">
        <PageTitle>Side by side</PageTitle>
        <Choice
          label="Which face"
          value={search.get('face') === 'back' ? 'back' : 'front'}
          onPick={(face) => set('face', face)}
          options={[
            { value: 'front', label: 'Front' },
            { value: 'back', label: 'Back' },
          ]}
        />
        <Choice
          label="Which patches belong together"
          value={search.get('by') === 'place' ? 'place' : 'settings'}
          onPick={(by) => set('by', by)}
          options={[
            { value: 'settings', label: 'Same settings' },
            { value: 'place', label: 'Same place' },
          ]}
        />
        <Choice
          label="What the plates show"
          value={search.get('show') === 'difference' ? 'difference' : 'photo'}
          onPick={(show) => set('show', show)}
          options={[
            { value: 'photo', label: 'Photos' },
            { value: 'difference', label: 'Difference to the first' },
          ]}
        />
        {keys.length < MOST_SIDES && (
          <Add
            burns={comparable.data?.burns ?? []}
            taken={keys}
            face={search.get('face') === 'back' ? 'back' : 'front'}
            onAdd={(key) => put([...keys, key])}
          />
        )}
      </Flex>
      {waiting && <Waiting what="the plates" height="300px" />}
      {sides.length === keys.length && (
        <Sides sides={sides} search={search} set={set} remove={(i) => put(keys.filter((_, j) => j !== i))} />
      )}
    </Box>
  )
}

interface AddProps {
  burns: Comparable[]
  taken: SideKey[]
  face: Face
  onAdd: (key: SideKey) => void
}

/** Another burn, or another photo of one that lies there already. */
function Add({ burns, taken, face, onAdd }: AddProps) {
  const there = new Set(taken.map((key) => writeSides([key])))
  const options = burns.flatMap(({ burn, trial, photos }) => {
    const title = `${trialName(trial.number)}, ${trial.material} on ${trial.head}`
    const of = photos.filter((photo) => photo.face === face && photo.matrix !== null)
    const one = [{ value: `${burn.id}`, label: `${title}, ${dayAndTime(burn.at)}` }]
    const more = of.slice(1).map((photo) => ({
      value: `${burn.id}.${photo.id}`,
      label: `${title}, photo of ${dayAndTime(photo.at)}${photo.treatment === 'burned' ? '' : `, ${photo.treatment}`}`,
    }))
    return [...one, ...more].filter(({ value }) => !there.has(value))
  })
  return (
    <Box width="250px">
      <SelectField
        label="Lay another plate beside it"
        hideLabel
        value=""
        onPick={(value) => {
          const [key] = readSides(value)
          if (key) onAdd(key)
        }}
        options={[{ value: '', label: 'Lay another beside it …' }, ...options]}
      />
    </Box>
  )
}

interface SidesProps {
  sides: Side[]
  search: URLSearchParams
  set: (key: string, value: string) => void
  remove: (index: number) => void
}

function Sides({ sides, search, set, remove }: SidesProps) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  const first = sides[0]
  if (!first) return null
  const plates = sides.map((side) => side.plate)
  const varied = variedOn(plates)
  const by = search.get('by') === 'place' ? 'place' : 'settings'
  const pairs = sides.map((side) => matched(first.plate.patches, side.plate.patches, by, varied))
  const common = first.plate.patches.filter((patch) => pairs.every((pair) => pair.has(patch.id)))
  const asked = search.get('patch')
  const active =
    first.plate.patches.find((patch) => patch.id === asked)?.id ??
    common[0]?.id ??
    first.plate.patches[0]?.id ??
    ''
  const held = heldApart(plates, varied)
  const patch = first.plate.patches.find((one) => one.id === active)
  const words = varied.map((key) => {
    const said = shown(patch?.settings[key] ?? 0, parameter(key), inventory.units, units)
    return `${said.value} ${said.unit || parameter(key).name}`
  })
  return (
    <>
      <Text fontSize="16px" mb="2" aria-live="polite">
        <b>{active}</b> {words.join(', ')}
        {sides.length > 1 && (
          <Text as="span" color="ink2">
            {' · '}
            {common.length} of {patchesOf(first.plate.patches.length)} {common.length === 1 ? 'has' : 'have'}{' '}
            a partner on every plate
          </Text>
        )}
      </Text>
      <Grid
        templateColumns={{ base: '1fr', md: `repeat(${Math.max(2, sides.length)}, minmax(0, 1fr))` }}
        gap="4"
        alignItems="start"
      >
        {sides.map((side, i) => (
          <SideColumn
            key={writeSides([side.key])}
            side={side}
            first={first}
            pairs={pairs[i] ?? new Map()}
            active={active}
            face={search.get('face') === 'back' ? 'back' : 'front'}
            asDifference={search.get('show') === 'difference' && i > 0}
            held={held}
            onPick={(id) => set('patch', id)}
            onRemove={sides.length > 1 ? () => remove(i) : undefined}
            onKeyDown={(event) => {
              const step = ARROWS[event.key]
              if (!step || event.ctrlKey || event.metaKey || event.altKey) return
              event.preventDefault()
              set('patch', neighbour(first.plate.patches, active, step, search.get('face') === 'back'))
            }}
          />
        ))}
        {sides.length === 1 && (
          <Nothing>
            Lay another plate beside it: another lot, another machine, another focus, or the same one after
            cleaning.
          </Nothing>
        )}
      </Grid>
      <KeysHelp hints={[{ keys: ['← → ↑ ↓'], does: 'walk over the patches, on all plates at once' }]} />
    </>
  )
}
