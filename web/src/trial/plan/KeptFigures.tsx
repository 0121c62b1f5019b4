import { Box, Flex, Text } from '@chakra-ui/react'
import { useKeptFigures } from '../../api/figures'
import { FigurePicture } from '../../shared/FigurePicture'

/** The figures the shop keeps, each a press away; nothing where there is none. */
export function KeptFigures({ onPick }: { onPick: (id: number) => void }) {
  const kept = useKeptFigures()
  if (!kept.data?.length) return null
  return (
    <Box mt="2" role="group" aria-label="Figures the shop keeps">
      <Text fontSize="13.5px" color="ink2" mb="1">
        or one the shop keeps
      </Text>
      <Flex gap="2" wrap="wrap" maxH="220px" overflowY="auto">
        {kept.data.map((figure) => (
          <Flex
            key={figure.id}
            as="button"
            aria-label={`Use ${figure.name}`}
            title={`${figure.name}, kept by ${figure.by_name}`}
            direction="column"
            align="center"
            justify="space-between"
            gap="1"
            w="92px"
            minH="84px"
            p="1.5"
            borderWidth="1px"
            borderColor="lineStrong"
            borderRadius="control"
            bg="card"
            cursor="pointer"
            _hover={{ bg: 'paper', borderColor: 'control' }}
            onClick={() => onPick(figure.id)}
          >
            <Flex flex="1" align="center">
              <FigurePicture figure={figure} size={46} />
            </Flex>
            <Text fontSize="13px" lineHeight="1.2" maxW="100%" truncate>
              {figure.name}
            </Text>
          </Flex>
        ))}
      </Flex>
    </Box>
  )
}
