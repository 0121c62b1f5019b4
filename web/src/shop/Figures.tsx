import { Box, Flex, Link, SimpleGrid, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { Download } from 'lucide-react'
import { useState } from 'react'
import { figureIn, useKeptFigures, useRetireFigure } from '../api/figures'
import type { KeptFigure } from '../api/types'
import { KeepFigure } from '../forms/KeepFigure'
import { AskSomebody } from '../shared/Allowed'
import { Button } from '../shared/Button'
import { FigurePicture } from '../shared/FigurePicture'
import { FileButton } from '../shared/FileButton'
import { Card, Failure, Nothing, Waiting } from '../shared/Parts'
import { useShop } from '../shared/ShopContext'
import { sayFailed } from '../shared/toast'
import { written } from '../shared/units'
import { counted, day } from '../shared/words'

/** The figures the shop keeps: shapes to try a setting on, by name. */
export function Figures() {
  const { me } = useShop()
  const kept = useKeptFigures()
  if (kept.isError) return <Failure error={kept.error} retry={() => void kept.refetch()} />
  if (!kept.data) return <Waiting what="the figures" />
  return (
    <Box>
      {kept.data.length === 0 && (
        <Nothing>
          No figures yet. A figure is a shape to try a setting on: a tag, a lantern wall, a stamp.
        </Nothing>
      )}
      <SimpleGrid columns={{ base: 1, md: 2, lg: 3 }} gap="3">
        {kept.data.map((figure) => (
          <FigureCard key={figure.id} figure={figure} />
        ))}
      </SimpleGrid>
      {me.may_write ? (
        <BringFigure first={kept.data.length === 0} />
      ) : (
        <AskSomebody least="member" to="keep figures" />
      )}
    </Box>
  )
}

function FigureCard({ figure }: { figure: KeptFigure }) {
  const { me } = useShop()
  const retire = useRetireFigure()
  return (
    <Card p="3">
      <Flex gap="4" align="center">
        <Flex w="96px" minH="96px" justify="center" align="center" flexShrink="0">
          <FigurePicture figure={figure} size={92} />
        </Flex>
        <Box minW="0" flex="1">
          <Text fontWeight="600" overflowWrap="anywhere">
            {figure.name}
          </Text>
          <Text color="ink2" fontSize="14px">
            drawn {written(figure.width_mm)} x {written(figure.height_mm)} mm
          </Text>
          <Text color="ink2" fontSize="14px">
            {figure.by_name}, {day(figure.at)}
          </Text>
          <Flex gap="3" mt="2" align="center">
            <Link
              href={`/api/kept-figures/${figure.id}/file`}
              download
              display="inline-flex"
              gap="1.5"
              alignItems="center"
              minH="32px"
            >
              <Download size={17} aria-hidden="true" /> SVG
            </Link>
            {me.may_write && (
              <Button
                size="sm"
                ml="auto"
                aria-label={`Retire ${figure.name}`}
                loading={retire.isPending}
                onClick={() => retire.mutate(figure.id, { onError: sayFailed })}
              >
                Retire
              </Button>
            )}
          </Flex>
        </Box>
      </Flex>
    </Card>
  )
}

/** A drawing that is to be kept: what is understood of it first, then under which name. */
function BringFigure({ first }: { first: boolean }) {
  const [file, setFile] = useState<string | null>(null)
  const find = useMutation({ mutationFn: figureIn })
  const done = () => {
    setFile(null)
    find.reset()
  }
  const { data } = find
  return (
    <Box mt="4" maxW="460px">
      <FileButton
        label="Drawing of a figure to keep"
        accept=".svg,.dxf,image/svg+xml"
        loading={find.isPending}
        onFile={(one) => {
          setFile(one.name.replace(/\.[^.]*$/, ''))
          find.mutate(one)
        }}
      >
        {first ? 'Keep a drawing' : 'Keep another drawing'}
      </FileButton>
      {find.error && (
        <Text role="alert" color="emberOnSoft" fontSize="14px" mt="1">
          {find.error.message}
        </Text>
      )}
      {data && (
        <Box mt="2">
          <Text fontSize="14px" color="ink2">
            {written(data.width_mm)} x {written(data.height_mm)} mm,{' '}
            {counted(data.brought.outlines, 'closed outline')}
            {data.brought.open > 0 &&
              `, ${counted(data.brought.open, 'line')} that ${data.brought.open === 1 ? 'does' : 'do'} not close`}
          </Text>
          {data.left_out.map(({ what, why }) => (
            <Text key={what} fontSize="13.5px" color="ink2">
              {what}: {why}
            </Text>
          ))}
          <KeepFigure key={file} figure={data.figure} called={file ?? ''} onKept={done} />
        </Box>
      )}
    </Box>
  )
}
