import { Box, Flex, Image, Link, Text } from '@chakra-ui/react'
import type { ReactNode } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Chance, RecipeCardData, Standing } from '../api/types'
import { MiniPlate } from '../plate/MiniPlate'
import { Markdown } from '../shared/Markdown'
import { Card, Numeral, StandingBadge } from '../shared/Parts'
import { useParameter, useParametersOn, useShop } from '../shared/ShopContext'
import { shown, written } from '../shared/units'
import { day, otherSettings, trialName } from '../shared/words'
import { ChanceText } from './ChanceText'
import { ConfirmedText } from './ConfirmTaps'
import { StepWay } from './StepWay'

const LEADING = ['speed_mm_s', 'power_pct']
const SMALLER = { s: 'xs', m: 's', l: 's' } as const

/** Whether somebody here has burned it and it came out: only that stands large and in ink. */
export function useTriedHere() {
  const kept: readonly Standing[] = useShop().inventory.kept_as
  return (recipe: { standing: Standing }) => kept.includes(recipe.standing)
}

/** Speed and power of a step; what nobody has tried here is smaller, in steel. */
export function StepNumerals({
  settings,
  size,
  unproven = false,
}: {
  settings: Record<string, number>
  size: 's' | 'm' | 'l'
  unproven?: boolean
}) {
  const { inventory, units } = useShop()
  const parameter = useParameter()
  return (
    <Flex columnGap={size === 's' ? '4' : '7'} wrap={size === 's' ? 'nowrap' : 'wrap'}>
      {LEADING.filter((key) => key in settings).map((key) => {
        const { value, unit, others } = shown(settings[key] ?? 0, parameter(key), inventory.units, units)
        return (
          <Numeral
            key={key}
            size={unproven ? SMALLER[size] : size}
            color={unproven ? 'steel' : undefined}
            value={value}
            unit={unit}
            others={others}
          />
        )
      })}
    </Flex>
  )
}

/** A recipe one can work from: numerals for two metres, the rest in words, the plate it comes from. */
export function RecipeCard({
  recipe,
  chance,
  children,
}: {
  recipe: RecipeCardData
  /** On how many fresh sheets it holds, where plates say. */
  chance?: Chance
  children?: ReactNode
}) {
  const { inventory, units } = useShop()
  const parameters = useParametersOn(recipe.head_id)
  const evidence = recipe.evidence
  const unproven = !useTriedHere()(recipe)
  const photo = evidence?.photos.find((one) => one.face === 'front') ?? evidence?.photos[0]
  return (
    <Card
      p={{ base: '4', md: '6' }}
      data-recipe={recipe.id}
      {...(unproven && { borderStyle: 'dashed', borderColor: 'steel' })}
    >
      <Flex gap="6" wrap="wrap" direction={{ base: 'column-reverse', md: 'row' }}>
        {evidence && (
          <Box width={{ base: '100%', md: '232px' }}>
            {photo && (
              <Image
                src={`/api/photos/${photo.sha256}`}
                alt={`The ${photo.face} of the burned plate`}
                width="100%"
                height={{ base: '200px', md: '140px' }}
                objectFit="cover"
                borderRadius="control"
                mb="2"
              />
            )}
            <Box height={photo ? '84px' : { base: '200px', md: '176px' }}>
              <MiniPlate
                picture={evidence.picture}
                chosen={recipe.patch}
                label={`Plate ${evidence.code}, patch ${recipe.patch} ringed`}
              />
            </Box>
            {recipe.trial_id !== null && recipe.trial_number !== null && (
              <Link asChild fontSize="14.5px" color="ink2" textDecoration="underline">
                <RouterLink
                  to={`/trials/${recipe.trial_id}/decide?burn=${recipe.burn_id}&patch=${recipe.patch}`}
                >
                  Plate {trialName(recipe.trial_number)}, patch {recipe.patch}
                </RouterLink>
              </Link>
            )}
          </Box>
        )}
        <Box flex="1" minW={{ base: '0', md: '300px' }}>
          <Flex gap="2" align="center" wrap="wrap" mb="2">
            <StandingBadge standing={recipe.standing} />
            {recipe.purpose && <Text fontWeight="600">{recipe.purpose}</Text>}
            <Text color="ink2">
              by {recipe.author}, {day(recipe.at)}
            </Text>
            <ConfirmedText recipe={recipe} />
          </Flex>
          {recipe.pinned && (
            <Text
              fontWeight="700"
              fontSize="18px"
              bg="emberSoft"
              color="emberOnSoft"
              borderRadius="control"
              px="3"
              py="1.5"
              mb="2"
            >
              {recipe.pinned}
            </Text>
          )}
          {recipe.lay_words && (
            <Text fontWeight="600" color="steel" mb="2">
              Found {recipe.lay_words}; says nothing of a piece that lies flat.
            </Text>
          )}
          {recipe.treatment_words && (
            <Text fontWeight="600" color="steel" mb="2">
              Judged {recipe.treatment_words}, not as burned.
            </Text>
          )}
          {recipe.good_enough && (
            <Text fontWeight="600" color="steel" mb="2">
              Good enough: {recipe.good_enough}
            </Text>
          )}
          {recipe.kerf_mm !== null && (
            <Text fontWeight="600" color="steel" mb="2">
              Kerf {written(recipe.kerf_mm)} mm
            </Text>
          )}
          {evidence?.failed && (
            <Text color="emberOnSoft" fontWeight="600" mb="2">
              ▲ Patch {recipe.patch} is read as a failure now. Nothing to work by.
            </Text>
          )}
          {recipe.steps.map((step) => (
            <Box key={step.position} mb="2">
              {recipe.steps.length > 1 && (
                <Text fontWeight="600">
                  {step.position}. {step.name}
                </Text>
              )}
              <StepNumerals settings={step.settings} size="l" unproven={unproven} />
              <Text fontSize="18px" fontWeight="500" mt="2">
                {otherSettings(step.settings, parameters, inventory.units, units)}
              </Text>
              <StepWay recipe={recipe} step={step} />
            </Box>
          ))}
          {chance && <ChanceText chance={chance} />}
          {recipe.note && (
            <Box color="ink2">
              <Markdown text={recipe.note} />
            </Box>
          )}
          {recipe.superseded_by !== null && (
            <Text color="emberOnSoft" fontWeight="600">
              Superseded by{' '}
              <Link asChild color="emberOnSoft" textDecoration="underline">
                <RouterLink to={`/book/${recipe.superseded_by}`}>another recipe</RouterLink>
              </Link>
            </Text>
          )}
          {children && (
            <Flex gap="2" mt="4" wrap="wrap">
              {children}
            </Flex>
          )}
        </Box>
      </Flex>
    </Card>
  )
}
