import { Box, Flex, Text } from '@chakra-ui/react'
import { Link as RouterLink } from 'react-router'
import type { RecipeCardData } from '../api/types'
import { MiniPlate } from '../plate/MiniPlate'
import { Card, StandingBadge } from '../shared/Parts'
import { day } from '../shared/words'
import { StepNumerals, useTriedHere } from './RecipeCard'

/** A recipe as a line of a list. */
export function RecipeRow({ recipe }: { recipe: RecipeCardData }) {
  const triedHere = useTriedHere()
  const first = recipe.steps[0]
  return (
    <Card p="2.5" role="listitem" _hover={{ borderColor: 'control' }}>
      <RouterLink to={`/book/${recipe.id}`}>
        <Flex gap="4" align="center" wrap="wrap">
          <Box width="72px" height="52px" flexShrink="0">
            {recipe.evidence && (
              <MiniPlate picture={recipe.evidence.picture} chosen={recipe.patch} label="" />
            )}
          </Box>
          <Box flex="1" minW="190px">
            <Text fontWeight="600" fontSize="17px">
              {recipe.material}
            </Text>
            <Text color="ink2" fontSize="14.5px">
              {recipe.process_name.toLowerCase()} on {recipe.head}
              {recipe.purpose && ` · ${recipe.purpose}`}
            </Text>
          </Box>
          <Box minW={{ base: '0', md: '210px' }}>
            {first && <StepNumerals settings={first.settings} size="s" unproven={!triedHere(recipe)} />}
          </Box>
          <Flex
            direction="column"
            align={{ base: 'flex-start', md: 'flex-end' }}
            minW={{ base: '0', md: '150px' }}
          >
            <StandingBadge standing={recipe.standing} />
            {recipe.evidence?.failed && (
              <Text color="emberOnSoft" fontWeight="600" fontSize="14px">
                ▲ its patch failed
              </Text>
            )}
            <Text color="ink2" fontSize="14px" mt="0.5">
              {recipe.author}, {day(recipe.at)}
            </Text>
          </Flex>
        </Flex>
      </RouterLink>
    </Card>
  )
}
