import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { ReactNode } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Lot, Material, Piece } from '../api/types'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { TextField } from '../shared/Fields'
import { Card, Nothing } from '../shared/Parts'
import { useOpenForm, useTabState } from '../shared/useTabState'
import { useShop } from '../shared/ShopContext'
import { written } from '../shared/units'
import { leftOf, sizeOf } from '../shared/words'
import { NewMaterial } from '../forms/NewMaterial'
import { EquipmentForm } from '../forms/EquipmentForm'
import {
  LOT_FIELDS,
  lotFacts,
  materialFacts,
  followFamily,
  materialFields,
  materialShown,
  pieceFacts,
  pieceFields,
} from '../forms/fields'
import { RetireButton } from './RetireButton'

const A_SCREENFUL = 60

/** The materials with their lots and pieces. */
export function Materials({ retired }: { retired: boolean }) {
  const { inventory, me } = useShop()
  const [adding, setAdding] = useOpenForm('material')
  const [text, setText] = useState('')
  const [most, setMost] = useState(A_SCREENFUL)
  const all = inventory.materials.filter((one) => one.retired === retired)
  const words = text.toLowerCase().split(/\s+/)
  const found = all.filter((one) =>
    words.every((word) =>
      `${one.title} ${one.family} ${one.supplier_code} ${Object.values(one.facts).join(' ')}`
        .toLowerCase()
        .includes(word),
    ),
  )
  return (
    <Box>
      {all.length > 8 && (
        <Box maxW="340px" mb="3">
          <TextField
            label="Find a material"
            hideLabel
            placeholder="name, family, supplier’s code"
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
        </Box>
      )}
      {found.length === 0 && !adding && (
        <Nothing>
          {text
            ? 'No material matches.'
            : retired
              ? 'No material is retired.'
              : 'No materials yet. Add the first one.'}
        </Nothing>
      )}
      <Grid templateColumns={{ base: '1fr', lg: '1fr 1fr' }} gap="3" alignItems="start">
        {found.slice(0, most).map((material) => (
          <MaterialCard key={material.id} material={material} />
        ))}
        {adding && (
          <Card p="4" borderColor="steel">
            <NewMaterial onDone={() => setAdding(false)} />
          </Card>
        )}
      </Grid>
      <Flex mt="3" gap="3" align="center" wrap="wrap">
        {found.length > most && (
          <Button onClick={() => setMost(most + 2 * A_SCREENFUL)}>
            Show more of {found.length} materials
          </Button>
        )}
        {me.may_prove && !adding && !retired && (
          <Button onClick={() => setAdding(true)} look={all.length === 0 ? 'ember' : 'quiet'}>
            Add a material
          </Button>
        )}
        <AskSomebody least="technician" to="add or change materials" />
      </Flex>
    </Box>
  )
}

function MaterialCard({ material }: { material: Material }) {
  const { inventory, me } = useShop()
  const [editing, setEditing] = useOpenForm(`material.${material.id}`)
  const [adding, setAdding] = useTabState<'lot' | 'piece' | null>(`open.of-material.${material.id}`, null)
  const lots = inventory.lots.filter((lot) => lot.material_id === material.id && !lot.retired)
  const pieces = inventory.pieces.filter((piece) => piece.material_id === material.id && !piece.retired)
  if (editing) {
    return (
      <Card p="4" borderColor="steel">
        <EquipmentForm
          kind="material"
          row={material}
          stored={materialFacts(material)}
          shown={materialShown(material)}
          fields={(values) => materialFields(inventory, values)}
          follow={followFamily(inventory.forms)}
          onDone={() => setEditing(false)}
        >
          <RetireButton
            kind="material"
            row={material}
            facts={materialFacts(material)}
            onDone={() => setEditing(false)}
          />
        </EquipmentForm>
      </Card>
    )
  }
  const done = () => setAdding(null)
  return (
    <Card p="3" opacity={material.retired ? 0.75 : 1}>
      <Flex justify="space-between" gap="3" align="flex-start">
        <Flex gap="2.5" align="center" minW="0">
          {material.ground_colour && (
            <Box
              width="22px"
              height="22px"
              borderRadius="6px"
              borderWidth="1px"
              borderColor="lineStrong"
              flexShrink="0"
              style={{ background: material.ground_colour }}
            />
          )}
          <Text fontWeight="600" fontSize="17px">
            {material.title}
          </Text>
        </Flex>
        {me.may_prove && (
          <Button size="sm" onClick={() => setEditing(true)} aria-label={`Change ${material.title}`}>
            Change
          </Button>
        )}
      </Flex>
      <MaterialWords material={material} />
      {lots.map((lot) => (
        <LotLine key={lot.id} lot={lot} />
      ))}
      {pieces.map((piece) => (
        <PieceLine key={piece.id} piece={piece} lots={lots} />
      ))}
      {adding === 'lot' && (
        <Inset>
          <EquipmentForm
            kind="lot"
            row={null}
            stored={{ material_id: material.id }}
            fields={() => LOT_FIELDS}
            onDone={done}
          />
        </Inset>
      )}
      {adding === 'piece' && (
        <Inset>
          <EquipmentForm
            kind="piece"
            row={null}
            stored={{ material_id: material.id, shape: 'rectangle', margin_mm: 2, top: 'level' }}
            fields={(values) => pieceFields(inventory, lots, values)}
            onDone={done}
          />
        </Inset>
      )}
      <Flex gap="4" mt="2" wrap="wrap" fontSize="15px" align="center">
        <RouterLink to={`/trials?material=${material.id}`} style={{ textDecoration: 'underline' }}>
          its plates
        </RouterLink>
        {me.may_write && !adding && !material.retired && (
          <>
            <Button look="link" size="sm" onClick={() => setAdding('lot')}>
              add a lot
            </Button>
            <Button look="link" size="sm" onClick={() => setAdding('piece')}>
              add a piece
            </Button>
          </>
        )}
      </Flex>
    </Card>
  )
}

function Inset({ children }: { children: ReactNode }) {
  return (
    <Box my="2" pt="3" borderTopWidth="1px" borderColor="line">
      {children}
    </Box>
  )
}

/** A fact of a sheet in words; which one it is and who made it need no name before them. */
function sheetWords(key: string, name: string, said: string | undefined): string | undefined {
  if (said === 'unknown') return 'of unknown kind'
  return said && key !== 'kind' && key !== 'maker' ? `${name} ${said}` : said
}

function MaterialWords({ material }: { material: Material }) {
  const { inventory } = useShop()
  const { processes, forms } = inventory
  const never = forms.hazards.filter((one) => one.never && material.hazards.includes(one.key))
  const mind = material.hazards.filter((key) => !never.some((one) => one.key === key))
  const facts = [
    material.family,
    material.facts.thickness_said && `${written(material.thickness_mm ?? 0)} mm`,
    ...forms.sheet_facts
      .filter(({ asked }) => asked)
      .map(({ key, name }) => sheetWords(key, name, material.facts[key])),
    material.hardness !== null && forms.hardness[material.hardness - 1],
    material.density_kg_m3 && `${material.density_kg_m3} kg/m³`,
    material.supplier_code && `code ${material.supplier_code}`,
  ].filter(Boolean)
  return (
    <Box color="ink2" fontSize="15px">
      <Text>{facts.join(' · ')}</Text>
      <Text>
        {material.processes.length > 0
          ? `for ${material.processes.map((key) => processes.find((one) => one.key === key)?.name.toLowerCase()).join(', ')}`
          : 'meant for nothing yet'}
        {mind.length > 0 && ` · mind: ${mind.join(', ')}`}
      </Text>
      {never.map((one) => (
        <Text key={one.key} color="emberOnSoft" fontWeight="600">
          ▲ {one.key}: {one.consequence}
        </Text>
      ))}
      {material.note && (
        <Text color="ink" whiteSpace="pre-wrap">
          {material.note}
        </Text>
      )}
    </Box>
  )
}

interface LineProps {
  words: string
  name: string
  note: string
  onEdit: () => void
}

function Line({ words, name, note, onEdit }: LineProps) {
  const { me } = useShop()
  return (
    <Flex justify="space-between" gap="3" fontSize="15px" align="center" minH="30px">
      <Text>
        {words}
        {note && (
          <Text as="span" color="ink2">
            {' '}
            · {note}
          </Text>
        )}
      </Text>
      {me.may_write && (
        <Button look="link" size="sm" onClick={onEdit} aria-label={`Change ${name}`}>
          change
        </Button>
      )}
    </Flex>
  )
}

function LotLine({ lot }: { lot: Lot }) {
  const [editing, setEditing] = useOpenForm(`lot.${lot.id}`)
  const done = () => setEditing(false)
  if (editing) {
    return (
      <Inset>
        <EquipmentForm kind="lot" row={lot} stored={lotFacts(lot)} fields={() => LOT_FIELDS} onDone={done}>
          <RetireButton kind="lot" row={lot} facts={lotFacts(lot)} onDone={done} />
        </EquipmentForm>
      </Inset>
    )
  }
  const measured = lot.measured_mm === null ? '' : `, ${lot.measured_mm} mm measured`
  return (
    <Line
      words={`Lot ${lot.name}${measured}`}
      name={`lot ${lot.name}`}
      note={lot.note}
      onEdit={() => setEditing(true)}
    />
  )
}

function PieceLine({ piece, lots }: { piece: Piece; lots: Lot[] }) {
  const { inventory } = useShop()
  const [editing, setEditing] = useOpenForm(`piece.${piece.id}`)
  const done = () => setEditing(false)
  if (editing) {
    return (
      <Inset>
        <EquipmentForm
          kind="piece"
          row={piece}
          stored={pieceFacts(piece)}
          fields={(values) => pieceFields(inventory, lots, values)}
          onDone={done}
        >
          <RetireButton kind="piece" row={piece} facts={pieceFacts(piece)} onDone={done} />
        </EquipmentForm>
      </Inset>
    )
  }
  return (
    <Line
      words={`Piece ${piece.name}, ${sizeOf(piece)}${leftOf(piece)}`}
      name={`piece ${piece.name}`}
      note={piece.note}
      onEdit={() => setEditing(true)}
    />
  )
}
