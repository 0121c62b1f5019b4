import { Box, Flex, Text } from '@chakra-ui/react'
import type { RecipePageData } from '../api/types'
import { Button } from '../shared/Button'
import { Card, Section } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayDone, sayFailed } from '../shared/toast'
import { dayAndTime } from '../shared/words'
import { useRestoreRecipe } from './useChangeRecipe'
import { changedWords } from './versions'

/** Every version with what it changed; an earlier one can be put back. */
export function HistoryCard({ page }: { page: RecipePageData }) {
  const { me } = useShop()
  const restore = useRestoreRecipe(page)
  return (
    <Card p="4">
      <Section title="Who and when">
        {page.history.map((version, i) => {
          const before = page.history[i + 1]
          const changes = before ? changedWords(before.recipe, version.recipe) : []
          return (
            <Box key={version.edit} py="1.5" borderTopWidth={i === 0 ? '0' : '1px'} borderColor="line">
              <Flex justify="space-between" gap="3" align="flex-start">
                <Text>
                  <Text as="span" color="ink2">
                    {dayAndTime(version.at)}
                  </Text>{' '}
                  {version.by_name} {before ? 'changed' : `kept it as ${String(version.recipe.standing)}`}
                </Text>
                {i > 0 && me.may_write && (
                  <Button
                    look="link"
                    size="sm"
                    loading={restore.isPending && restore.variables === version.edit}
                    onClick={() =>
                      restore.mutate(version.edit, {
                        onSuccess: () => sayDone('The earlier words stand again.'),
                        onError: sayFailed,
                      })
                    }
                  >
                    put this back
                  </Button>
                )}
              </Flex>
              {changes.map((change) => (
                <Text key={change.name} fontSize="14.5px" pl="3">
                  {change.name}:{' '}
                  <Text as="del" color="ink2">
                    {change.before}
                  </Text>{' '}
                  → <Text as="span">{change.after}</Text>
                </Text>
              ))}
            </Box>
          )
        })}
      </Section>
    </Card>
  )
}
