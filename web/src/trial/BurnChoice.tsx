import { Box } from '@chakra-ui/react'
import type { ListedBurn, TrialPageData } from '../api/types'
import { SelectField } from '../shared/Fields'
import { counted, dayAndTime } from '../shared/words'
import { useAddress } from '../shared/useAddress'

/** What tells one burn of a plate from another: when, who, which piece and lot, and what there is of it. */
export function burnWords(burn: ListedBurn): string {
  const words = [`${dayAndTime(burn.at)}, ${burn.by_name}`]
  if (burn.revision > 1) words.push(`revision ${burn.revision}`)
  if (burn.piece) words.push(burn.piece)
  if (burn.lot) words.push(burn.lot)
  words.push(burn.scored === 0 ? 'not read' : `${burn.scored} read`)
  if (burn.photos > 0) words.push(counted(burn.photos, 'photo'))
  return words.join(' · ')
}

/** Which burn of the plate one looks at, where it was burned more than once. */
export function BurnChoice({ page }: { page: TrialPageData }) {
  const [, setSearch] = useAddress()
  if (page.burns.length < 2 || !page.burn) return null
  const latest = page.burns[0]?.id
  return (
    <Box maxW="560px">
      <SelectField
        label="Which burn"
        hideLabel
        compact
        value={String(page.burn.id)}
        options={page.burns.map((burn, i) => ({
          value: String(burn.id),
          label: `Burn ${page.burns.length - i} of ${page.burns.length}: ${burnWords(burn)}`,
        }))}
        onPick={(id) =>
          setSearch((before) => {
            if (Number(id) === latest) before.delete('burn')
            else before.set('burn', id)
            before.delete('patch')
            return before
          })
        }
      />
    </Box>
  )
}
