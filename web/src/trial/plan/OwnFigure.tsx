import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { figureIn, keptFigure } from '../../api/figures'
import type { Design, Plate } from '../../api/types'
import { KeepFigure } from '../../forms/KeepFigure'
import { Button } from '../../shared/Button'
import { FileButton } from '../../shared/FileButton'
import { written } from '../../shared/units'
import { useShop } from '../../shared/ShopContext'
import { counted } from '../../shared/words'
import { KeptFigures } from './KeptFigures'

type Patch = Design['patch']

interface OwnFigureProps {
  figure: Patch['figure']
  /** What the last good plan understood of it. */
  plan: Pick<Plate, 'brought'>
  onPatch: (part: Partial<Patch>) => void
}

/** The figure somebody brings: from which file, or from those the shop keeps, what was understood of it, and what does not close. */
export function OwnFigure({ figure, plan, onPatch }: OwnFigureProps) {
  const { me } = useShop()
  const find = useMutation({
    mutationFn: (from: File | number) => (typeof from === 'number' ? keptFigure(from) : figureIn(from)),
    // Its height follows from its width, whatever size it had been drawn in.
    onSuccess: ({ figure: found, width_mm }) =>
      onPatch({
        shape: 'figure',
        figure: found,
        width_mm,
        height_mm: null,
        text: undefined,
        letters: undefined,
        slots: undefined,
      }),
  })
  const leftOut = find.data?.left_out ?? []
  // What has just come in may not be planned: of lines that do not close nothing is filled.
  const isNew = find.data !== undefined && figure?.svg === find.data.figure.svg && !figure.close_gaps_mm
  const fromShelf = isNew && typeof find.variables === 'number'
  const brought = isNew ? find.data?.brought : plan.brought
  const gap = brought?.small_gap_mm
  return (
    <Box mt="2">
      <Flex gap="3" align="center" wrap="wrap">
        <FileButton
          label="Drawing of the figure"
          accept=".svg,.dxf,image/svg+xml"
          loading={find.isPending}
          onFile={(file) => find.mutate(file)}
        >
          {figure ? 'Another drawing' : 'Choose a drawing'}
        </FileButton>
        <Text fontSize="13.5px" color="ink2" flex="1" minW="150px">
          {brought && figure
            ? `${counted(brought.outlines, 'closed outline')}${brought.holes ? `, ${brought.holes} of them ${brought.holes === 1 ? 'a hole' : 'holes'}` : ''}`
            : 'SVG or DXF, outlines only.'}
        </Text>
      </Flex>
      {figure && (
        <Flex asChild gap="2" mt="1.5" fontSize="14px" align="center">
          <label>
            <input
              type="checkbox"
              checked={figure.stretched ?? false}
              onChange={({ currentTarget: { checked } }) =>
                onPatch({
                  figure: { ...figure, stretched: checked },
                  height_mm: null,
                })
              }
            />
            other proportions than drawn
          </label>
        </Flex>
      )}
      {figure && brought != null && brought.open > 0 && (
        <Flex gap="3" align="center" wrap="wrap" mt="1.5">
          <Text fontSize="13.5px" color="emberOnSoft">
            {counted(brought.open, 'line')} {brought.open === 1 ? 'does' : 'do'} not close
            {gap != null && `; a gap of ${written(gap)} mm`}
          </Text>
          {gap != null && (
            <Button size="sm" onClick={() => onPatch({ figure: { ...figure, close_gaps_mm: gap } })}>
              Close it
            </Button>
          )}
        </Flex>
      )}
      {leftOut.map(({ what, why }) => (
        <Text key={what} fontSize="13.5px" color="ink2" mt="1">
          {what}: {why}
        </Text>
      ))}
      {find.error && (
        <Text role="alert" color="emberOnSoft" fontSize="14px" mt="1">
          {find.error.message}
        </Text>
      )}
      <KeptFigures onPick={(id) => find.mutate(id)} />
      {figure && me.may_write && !fromShelf && <KeepFigure figure={figure} />}
    </Box>
  )
}
