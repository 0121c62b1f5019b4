import { Box, Flex, Table, Text } from '@chakra-ui/react'
import { useParams } from 'react-router'
import { useRecipe, useWall } from '../api/hooks'
import type { Recipe, RecipePageData } from '../api/types'
import { confirmedWords } from '../recipes/ConfirmTaps'
import { StepNumerals } from '../recipes/RecipeCard'
import { StepWay } from '../recipes/StepWay'
import { MiniPlate } from '../plate/MiniPlate'
import { Markdown } from '../shared/Markdown'
import { Failure, Nothing, Waiting } from '../shared/Parts'
import { useParametersOn, useShop } from '../shared/ShopContext'
import { written } from '../shared/units'
import { day, kerfWords, otherSettings } from '../shared/words'
import { Code } from './Code'
import { Sheet } from './Sheet'
import { useAddress } from '../shared/useAddress'

/** A recipe on paper, to lie beside the machine. */
export function PrintRecipe() {
  const { inventory } = useShop()
  const id = Number(useParams().id)
  const also = useAddress()[0].has('also')
  const recipe = useRecipe(id)
  if (!Number.isInteger(id)) return <Nothing>There is no such recipe.</Nothing>
  if (recipe.isError) return <Failure error={recipe.error} retry={() => void recipe.refetch()} />
  if (!recipe.data) return <Waiting what="the recipe" height="400px" />
  const page = recipe.data
  return (
    <Sheet>
      <Flex justify="space-between" gap="6">
        <Box>
          <Text fontSize="15px">{inventory.shop?.name}</Text>
          <Text as="h1" fontSize="32px" fontWeight="700" lineHeight="1.15">
            {page.material}
          </Text>
          <Text fontSize="20px">
            {page.process_name} on {page.head}
            {page.purpose && ` · ${page.purpose}`}
          </Text>
        </Box>
        <Code place={`/book/${id}`} size="30mm" />
      </Flex>
      <Text mt="3" fontWeight="600" fontSize="18px">
        {page.standing}
        {confirmedWords(page) && `, ${confirmedWords(page)}`}
      </Text>
      <Steps recipe={page} size="l" />
      {also && <Also page={page} />}
      {page.evidence && (
        <Flex gap="6" mt="6" align="flex-start">
          <Box width="60mm" height="50mm" flexShrink="0">
            <MiniPlate
              picture={page.evidence.picture}
              chosen={page.patch}
              label={`Plate ${page.evidence.code}`}
            />
          </Box>
          <Box>
            <Text>
              Plate {page.evidence.code}, patch {page.patch}
            </Text>
            <Text>
              Burned by {page.evidence.burn.by_name}, {day(page.evidence.burn.at)}
            </Text>
            {[
              page.evidence.burn.lot && `Lot ${page.evidence.burn.lot}`,
              page.evidence.burn.focus && `Focus ${page.evidence.burn.focus}`,
              page.evidence.burn.air && `Air ${page.evidence.burn.air}`,
              page.supplier_code && `Supplier’s code ${page.supplier_code}`,
            ]
              .filter(Boolean)
              .map((line) => (
                <Text key={String(line)}>{line}</Text>
              ))}
          </Box>
        </Flex>
      )}
      {page.pinned && (
        <Text mt="4" fontWeight="700" fontSize="14pt">
          {page.pinned}
        </Text>
      )}
      {page.lay_words && <Text mt="2">Only for a piece that lies {page.lay_words}.</Text>}
      {page.treatment_words && <Text mt="2">Judged {page.treatment_words}, not as burned.</Text>}
      {page.good_enough && <Text mt="2">Good enough: {page.good_enough}</Text>}
      {page.kerf_mm !== null && (
        <Text mt="2">
          Kerf {written(page.kerf_mm)} mm. {kerfWords(page.kerf_mm)}
        </Text>
      )}
      {page.conditions && <Text mt="4">{page.conditions}</Text>}
      {page.note && (
        <Box mt="4">
          <Markdown text={page.note} />
        </Box>
      )}
      <Text mt="6" fontSize="14px">
        Kept by {page.author}, {day(page.at)}. Printed {day(new Date().toISOString())}; the page behind the
        code is newer.
      </Text>
    </Sheet>
  )
}

const PRINTED = {
  l: { apart: '4', size: '20px', below: '2' },
  m: { apart: '2', size: '18px', below: '1' },
} as const

interface StepsProps {
  recipe: Recipe
  size: keyof typeof PRINTED
}

/** The settings of a recipe, step by step. */
function Steps({ recipe, size }: StepsProps) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(recipe.head_id)
  const printed = PRINTED[size]
  return recipe.steps.map((step) => (
    <Box key={step.position} mt={printed.apart}>
      {recipe.steps.length > 1 && (
        <Text fontWeight="600">
          {step.position}. {step.name}
        </Text>
      )}
      <StepNumerals settings={step.settings} size={size} />
      <Text fontSize={printed.size} mt={printed.below}>
        {otherSettings(step.settings, parameters, inventory.units, units)}
      </Text>
      <StepWay recipe={recipe} step={step} />
    </Box>
  ))
}

/** What else is done to this material on this head, on the same card: mark, engrave and cut. */
function Also({ page }: { page: RecipePageData }) {
  return page.siblings.map((one) => (
    <Box key={one.id} mt="5" pt="3" borderTopWidth="1px" borderColor="line" breakInside="avoid">
      <Text fontSize="20px" fontWeight="600">
        {one.process_name}
        {one.purpose && ` · ${one.purpose}`}{' '}
        <Text as="span" fontSize="16px" fontWeight="400">
          {one.standing}
        </Text>
      </Text>
      {one.pinned && <Text fontWeight="700">{one.pinned}</Text>}
      <Steps recipe={one} size="m" />
    </Box>
  ))
}

/** The card that hangs beside a machine: what is proven and tried on it, heads apart. */
export function PrintWall() {
  const { inventory } = useShop()
  const id = Number(useParams().id)
  const machine = inventory.machines.find((one) => one.id === id)
  const heads = inventory.heads.filter((head) => head.machine_id === id && !head.retired)
  const wall = useWall(id)
  if (!machine) return <Nothing>There is no such machine.</Nothing>
  if (wall.isError) return <Failure error={wall.error} retry={() => void wall.refetch()} />
  if (!wall.data) return <Waiting what="the wall card" height="400px" />
  const { recipes } = wall.data
  return (
    <Sheet>
      <Flex justify="space-between" gap="6" mb="3">
        <Box>
          <Text fontSize="15px">{inventory.shop?.name}</Text>
          <Text as="h1" fontSize="40px" fontWeight="700" lineHeight="1.1">
            {machine.name}
          </Text>
          <Text>
            {machine.facts.rated_power_w} W, field {machine.facts.field_width_mm} ×{' '}
            {machine.facts.field_height_mm} mm, fires from {machine.facts.firing_floor_pct} %, at most{' '}
            {machine.facts.max_power_pct} %
          </Text>
        </Box>
        <Code place={`/book?view=list&head=${heads[0]?.id ?? ''}`} size="26mm" />
      </Flex>
      {heads.map((head) => (
        <HeadTable
          key={head.id}
          title={heads.length > 1 ? head.title : ''}
          recipes={recipes.filter((recipe) => recipe.head_id === head.id)}
        />
      ))}
      <Text mt="4" fontSize="13px">
        Bold: proven. The rest was tried. Printed {day(new Date().toISOString())}; what is newer stands behind
        the code.
      </Text>
    </Sheet>
  )
}

function HeadTable({ title, recipes }: { title: string; recipes: Recipe[] }) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(recipes[0]?.head_id)
  return (
    <Box mt="2">
      {title && (
        <Text as="h2" fontSize="20px" fontWeight="700">
          {title}
        </Text>
      )}
      {recipes.length === 0 && <Text>Nothing is proven or tried here yet.</Text>}
      <Box overflowX="auto" tabIndex={0} role="region" aria-label={`Recipes on ${title || 'this machine'}`}>
        <Table.Root size="sm" variant="line" bg="transparent">
          <Table.Body>
            {recipes.map((recipe) => (
              <Table.Row
                key={recipe.id}
                bg="transparent"
                fontWeight={recipe.standing === 'proven' ? '700' : '400'}
              >
                <Table.Cell px="0">
                  {recipe.material}
                  {recipe.purpose && `, ${recipe.purpose}`}
                </Table.Cell>
                <Table.Cell>{recipe.process_name.toLowerCase()}</Table.Cell>
                <Table.Cell whiteSpace="nowrap">
                  {recipe.steps[0] && <StepNumerals settings={recipe.steps[0].settings} size="s" />}
                </Table.Cell>
                <Table.Cell px="0" fontSize="13px">
                  {recipe.steps[0] &&
                    otherSettings(recipe.steps[0].settings, parameters, inventory.units, units)}
                </Table.Cell>
              </Table.Row>
            ))}
          </Table.Body>
        </Table.Root>
      </Box>
    </Box>
  )
}
