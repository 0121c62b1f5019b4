import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import { PlanAround } from '../recipes/PlanAround'
import { useMap } from '../api/hooks'
import type { BookMap as MapData, MapCell, ProcessKey } from '../api/types'
import { OutcomeSwatch } from '../plate/OutcomeSwatch'
import { Button } from '../shared/Button'
import { Card, Failure, Nothing, Numeral, Section, StandingBadge, Waiting } from '../shared/Parts'
import { useParameter, useParametersOn, useProcess, useShop } from '../shared/ShopContext'
import { shown } from '../shared/units'
import { otherSettings } from '../shared/words'
import { SayNotWorking } from './SayNotWorking'
import './map.css'

interface Place {
  material: number
  title: string
  cell: MapCell
}

const A_SCREENFUL = 60

/** Materials down, machines and heads across: what is known, what is not, and why some squares stay empty. */
export function BookMap({ process }: { process: ProcessKey }) {
  const map = useMap(process)
  const [chosen, setChosen] = useState<{ material: number; head: number } | null>(null)
  const [most, setMost] = useState(A_SCREENFUL)
  if (map.isError) return <Failure error={map.error} retry={() => void map.refetch()} />
  if (!map.data) return <Waiting what="the map" height="320px" />
  const { rows, heads } = map.data
  if (rows.length === 0 || heads.length === 0) {
    return <Nothing>No material of the shop is meant for this, or there is no machine yet.</Nothing>
  }
  const row = rows.find((one) => one.material_id === chosen?.material)
  const cell = row?.cells.find((one) => one.head_id === chosen?.head)
  const place = row && cell ? { material: row.material_id, title: row.title, cell } : null
  return (
    <Grid templateColumns={{ base: 'minmax(0, 1fr)', lg: 'minmax(0, 1fr) 340px' }} gap="6" alignItems="start">
      <Box minW="0">
        <div className="map-frame">
          <table className="map" aria-label="What is known of each material on each machine">
            <thead>
              <tr>
                <th scope="col">
                  <span className="unseen">Material</span>
                </th>
                {heads.map((head) => (
                  <th key={head.id} scope="col">
                    {head.title}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.slice(0, most).map((one) => (
                <tr key={one.material_id}>
                  <th scope="row">{one.title}</th>
                  {one.cells.map((square) => (
                    <td key={square.head_id}>
                      <Square
                        process={process}
                        place={{ material: one.material_id, title: one.title, cell: square }}
                        chosen={square === cell}
                        onChoose={() => setChosen({ material: one.material_id, head: square.head_id })}
                      />
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        {rows.length > most && (
          <Button mt="3" onClick={() => setMost(most + 2 * A_SCREENFUL)}>
            Show more of {rows.length} materials
          </Button>
        )}
        <Text color="ink2" fontSize="14px" mt="3">
          A dash is not meant for this, or does not work. A dashed square is meant and not known: choose it to
          plan an array.
        </Text>
      </Box>
      <Flex direction="column" gap="3">
        {place && <Peek process={process} place={place} map={map.data} />}
        <Standings map={map.data} />
      </Flex>
    </Grid>
  )
}

interface SquareProps {
  process: ProcessKey
  place: Place
  chosen: boolean
  onChoose: () => void
}

/** One square: how it stands, and how it came out; for cuts the speed instead of a shade. */
function Square({ process, place, chosen, onChoose }: SquareProps) {
  const { inventory, units } = useShop()
  const speed = useParameter()('speed_mm_s')
  const outcome = useProcess(process).outcome
  const { cell } = place
  if (cell.state === 'not_meant') {
    return (
      <span className="map-dash" title={cell.reason ?? ''}>
        <span aria-hidden="true">–</span>
        <span className="unseen">{cell.reason}</span>
      </span>
    )
  }
  const machine = inventory.heads.find((one) => one.id === cell.head_id)?.title
  const name = `${place.title} on ${machine}`
  const props = { type: 'button' as const, onClick: onChoose, 'aria-pressed': chosen }
  if (cell.state === 'known' && cell.standing) {
    const value = cell.settings?.speed_mm_s
    const fast = value === undefined ? null : shown(value, speed, inventory.units, units)
    return (
      <button
        {...props}
        className={`square ${cell.standing}`}
        aria-label={`${name}: ${cell.standing}${(cell.known ?? 1) > 1 ? `, ${cell.known} recipes` : ''}`}
      >
        {outcome === 'through' ? (
          <span className="square-figure" title={fast?.others}>
            {fast?.value}
            <small> {fast?.unit}</small>
          </span>
        ) : (
          <OutcomeSwatch outcome={cell.outcome ?? null} most={5} />
        )}
        <span className="square-word">
          {cell.standing}
          {(cell.known ?? 1) > 1 && <small> +{(cell.known ?? 1) - 1}</small>}
        </span>
      </button>
    )
  }
  if (cell.state === 'gap') {
    return (
      <button {...props} className="square gap" aria-label={`${name}: not known yet`}>
        <span className="square-word">plan one</span>
      </button>
    )
  }
  return (
    <button
      {...props}
      className="square none"
      title={cell.reason ?? ''}
      aria-label={`${name}: ${cell.state === 'never' ? 'never burned' : 'does not work'}, ${cell.reason}`}
    >
      <span className="square-word">{cell.state === 'never' ? '▲ never' : '–'}</span>
    </button>
  )
}

/** What the chosen square holds, beside the map. */
function Peek({ process, place, map }: { process: ProcessKey; place: Place; map: MapData }) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(place.cell.head_id)
  const parameter = useParameter()
  const { cell } = place
  const head = map.heads.find((one) => one.id === cell.head_id)
  const settings = cell.settings ?? {}
  const ask = `/?process=${process}&material=${place.material}&head=${cell.head_id}`
  return (
    <Card p="4" borderColor="steel" aria-live="polite">
      <Section title={`${place.title} · ${head?.title}`}>
        {cell.state === 'known' && cell.standing && (
          <>
            <Flex gap="5" wrap="wrap" mb="2">
              {(['speed_mm_s', 'power_pct'] as const)
                .filter((key) => key in settings)
                .map((key) => {
                  const one = shown(settings[key] ?? 0, parameter(key), inventory.units, units)
                  return <Numeral key={key} size="m" {...one} />
                })}
            </Flex>
            <Text fontWeight="500" mb="2">
              {otherSettings(settings, parameters, inventory.units, units)}
            </Text>
            <Flex gap="2" align="center" mb="3" wrap="wrap">
              <StandingBadge standing={cell.standing} />
              {cell.purpose && <Text fontWeight="600">{cell.purpose}</Text>}
            </Flex>
            <Flex gap="2" wrap="wrap">
              <Button asChild look="ember">
                <RouterLink to={`/book/${cell.recipe}`}>Open it</RouterLink>
              </Button>
              {(cell.known ?? 1) > 1 && (
                <Button asChild>
                  <RouterLink
                    to={`/book?view=list&process=${process}&material=${place.material}&head=${cell.head_id}`}
                  >
                    All {cell.known}
                  </RouterLink>
                </Button>
              )}
            </Flex>
          </>
        )}
        {cell.state === 'gap' && (
          <>
            <Text mb="3">Meant for it, and nobody knows how yet.</Text>
            <Flex gap="2" wrap="wrap">
              <PlanAround process={process} material={place.material} head={cell.head_id} first />
              <Button asChild>
                <RouterLink to={ask}>What comes near</RouterLink>
              </Button>
            </Flex>
          </>
        )}
        {cell.reason && <Text mb="2">{cell.reason}</Text>}
        {(cell.state === 'gap' || cell.state === 'does_not_work') && (
          <SayNotWorking
            key={`${place.material} ${cell.head_id}`}
            process={process}
            material={place.material}
            head={cell.head_id}
            reason={cell.reason ?? null}
          />
        )}
      </Section>
    </Card>
  )
}

function Standings({ map }: { map: MapData }) {
  const cells = map.rows.flatMap((row) => row.cells)
  const count = (standing: string) => cells.filter((cell) => cell.standing === standing).length
  const figures = [
    { name: 'proven', value: count('proven') },
    { name: 'tried', value: count('tried') },
    { name: 'doubtful', value: count('doubtful') },
    { name: 'gaps', value: map.gaps },
  ]
  return (
    <Card p="4">
      <Section title="Where it stands">
        <Flex gap="6">
          {figures.map(({ name, value }) => (
            <Box key={name} color={name === 'doubtful' && value > 0 ? 'emberOnSoft' : 'ink'}>
              <Numeral size="m" value={String(value)} unit="" />
              <Text color="ink2" fontSize="15px">
                {name}
              </Text>
            </Box>
          ))}
        </Flex>
      </Section>
    </Card>
  )
}
