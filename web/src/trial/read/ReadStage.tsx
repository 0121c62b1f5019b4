import { Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'
import type { TrialPageData } from '../../api/types'
import { KeysHelp } from '../../shared/KeysHelp'
import { Nothing } from '../../shared/Parts'
import { TwoVersions } from '../../shared/TwoVersions'
import { KerfCard } from '../KerfCard'
import { ProofCard } from '../ProofCard'
import { LayByHand } from './LayByHand'
import { PartPhotos } from './PartPhotos'
import { PatchCard, TypedCard } from './PatchCard'
import { PhotosCard } from './PhotosCard'
import { PlateToRead } from './PlateToRead'
import { ReadActions } from './ReadActions'
import { ReadSoFar } from './ReadSoFar'
import { keyHints } from './readKeys'
import { scoreDifferences } from './scoring'
import { ReadContext, useRead, useReader } from './useRead'

/** Read: the photo under the patches, the least sure first, one key a patch. */
export function ReadStage({ page }: { page: TrialPageData }) {
  const reader = useRead(page)
  const [laying, setLaying] = useState<number | null>(null)
  const laid = page.photos.find((photo) => photo.id === laying)
  if (!reader) return <Nothing>No patch of this plate was burned.</Nothing>
  if (laid) return <LayByHand plate={reader.plate} photo={laid} onDone={() => setLaying(null)} />
  return (
    <ReadContext value={reader}>
      <Grid
        templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }}
        gap="6"
        alignItems="start"
        pb={{ base: '84px', lg: '0' }}
      >
        <PlateToRead />
        <Flex direction="column" gap="3">
          <ReadOtherwise />
          <PatchCard />
          <ProofCard page={page} />
          <KerfCard page={page} />
          <ReadSoFar />
          <ReadActions />
          <TypedCard />
          <PartPhotos />
          <PhotosCard
            page={page}
            face={reader.face}
            settled={reader.photos.settled}
            onLay={(photo) => setLaying(photo.id)}
          />
        </Flex>
        <KeysHelp hints={keyHints(reader.words, reader.scales)} />
      </Grid>
    </ReadContext>
  )
}

/** Somebody else has scored a patch meanwhile: theirs and mine. */
function ReadOtherwise() {
  const { readings, words, process, scales } = useReader()
  const { clash, settleClash } = readings
  if (!clash) return null
  return (
    <TwoVersions
      what={`the reading of ${clash.patch}`}
      rows={scoreDifferences(clash.theirs, clash.mine, words, process, scales)}
      who={clash.who}
      onTheirs={() => settleClash(new Set())}
      onMine={settleClash}
    />
  )
}
