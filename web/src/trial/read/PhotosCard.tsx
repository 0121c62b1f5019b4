import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { Camera, Crosshair, ImagePlus, Trash2 } from 'lucide-react'
import { Link as RouterLink } from 'react-router'
import { flatUrl, isFound, readBy, useBringIn, useChangePhoto, usePointCorners } from '../../api/photos'
import type { PhotoChange } from '../../api/photos'
import { isBeingRead } from '../../api/hooks'
import type { Face, Photo, ShownPhoto, TreatmentKey, TrialPageData } from '../../api/types'
import { Button } from '../../shared/Button'
import { SelectField } from '../../shared/Fields'
import { Card } from '../../shared/Parts'
import { useProcess, useShop } from '../../shared/ShopContext'
import { sayDone, sayFailed } from '../../shared/toast'
import { dayAndTime } from '../../shared/words'
import { PhotoField } from './PhotoField'

interface PhotosCardProps {
  page: TrialPageData
  face: Face
  /** Whether what the photos say of the patches is on the page. */
  settled: boolean
  onLay: (photo: ShownPhoto) => void
}

const FOUND_BY = { marks: 'its marks', outline: 'its outline', corners: 'hand' } as const

/** The photos of the face one looks at: how each was found, and what can be done about it. */
export function PhotosCard({ page, face, settled, onLay }: PhotosCardProps) {
  const { me } = useShop()
  const bringIn = useBringIn()
  const burn = page.burn
  const passesThrough = useProcess(page.process).passes_through
  const photos = page.photos.filter((photo) => photo.face === face)
  const chosen = readBy(page.photos, face)
  const add = (files: FileList | null) => {
    for (const file of Array.from(files ?? []))
      if (burn) bringIn.mutate({ file, target: { burn: burn.id, face } }, { onError: sayFailed })
  }
  return (
    <Card p="3">
      <Flex align="center" gap="2">
        <Text fontWeight="600" fontSize="15px">
          {photos.length === 0 ? `No photo of the ${face} yet` : `Photos of the ${face}`}
        </Text>
        {me.may_write && (
          <Flex ml="auto" gap="2">
            <Box display={{ base: 'block', lg: 'none' }}>
              <PhotoField label={`Take a photo of the ${face}`} camera busy={bringIn.isPending} onFiles={add}>
                <Camera size={16} /> Take one
              </PhotoField>
            </Box>
            <PhotoField label={`Photo of the ${face}`} busy={bringIn.isPending} onFiles={add}>
              <ImagePlus size={16} /> {photos.length === 0 ? 'Add one' : 'Another'}
            </PhotoField>
          </Flex>
        )}
      </Flex>
      {photos.length === 0 && me.may_write && (
        <Text fontSize="14px" color="ink2" mt="1">
          Take it with the phone, drop it anywhere, or paste it. The whole plate, straight from above, on
          something that looks otherwise: a light pad is best, then something dark; for shades with the{' '}
          <RouterLink to="/print/reference-card" style={{ textDecoration: 'underline' }}>
            reference card
          </RouterLink>{' '}
          beside it.
        </Text>
      )}
      {photos.map((photo) => (
        <PhotoRow
          key={photo.id}
          photo={photo}
          chosen={photo === chosen}
          judged={photo.treatment === page.burn?.treatment}
          only={photos.length === 1}
          beingRead={isBeingRead(photo) || (photo === chosen && !settled)}
          mayWrite={me.may_write}
          partsComeOut={passesThrough}
          onLay={() => onLay(photo)}
        />
      ))}
    </Card>
  )
}

interface PhotoRowProps {
  photo: ShownPhoto
  chosen: boolean
  /** Whether it shows the piece treated as it is judged by. */
  judged: boolean
  only: boolean
  /** Until its figures are on the page too: they make room above, and a button would move away under the finger. */
  beingRead: boolean
  mayWrite: boolean
  /** Whether parts come out of such a plate, so that some may have been pushed out before. */
  partsComeOut: boolean
  onLay: () => void
}

function PhotoRow({ photo, chosen, judged, only, beingRead, mayWrite, partsComeOut, onLay }: PhotoRowProps) {
  const { me, inventory } = useShop()
  const { treatments } = inventory.forms
  const change = useChangePhoto()
  const point = usePointCorners()
  const { places_mm, turned_mm, at_px } = photo.handles
  const lay = (mm: number[][]) => point.mutate({ photo, mm, px: at_px ?? [] }, { onError: sayFailed })
  const say = (said: PhotoChange) => change.mutate({ photo, change: said }, { onError: sayFailed })
  const remove = () =>
    change.mutate(
      { photo, change: { removed: true } },
      {
        onSuccess: (gone) =>
          sayDone(`The photo of the ${photo.face} is gone.`, () =>
            change.mutate({ photo: gone, change: { removed: false } }, { onError: sayFailed }),
          ),
        onError: sayFailed,
      },
    )
  return (
    <Flex gap="3" mt="2.5" align="flex-start">
      <Box
        width="58px"
        height="44px"
        flexShrink="0"
        borderRadius="6px"
        overflow="hidden"
        bg="line"
        borderWidth={chosen && !only ? '2px' : '0'}
        borderColor="steel"
      >
        {isFound(photo) && (
          <a href={`/api/photos/${photo.sha256}`} target="_blank" rel="noreferrer">
            <img
              src={flatUrl(photo)}
              alt={`The ${photo.face} as it was taken ${dayAndTime(photo.at)}`}
              style={{ width: '100%', height: '100%', objectFit: 'cover' }}
            />
          </a>
        )}
      </Box>
      <Box flex="1" minW="0">
        <Text fontSize="14px" lineHeight="1.35">
          {beingRead ? 'Being read …' : <State photo={photo} />}
        </Text>
        {mayWrite && !beingRead && partsComeOut && isFound(photo) && photo.pushed === null && (
          <Flex gap="2" wrap="wrap" align="center" my="1">
            <Text fontSize="14px" fontWeight="600">
              Was anything pushed out before it was taken?
            </Text>
            <Button size="sm" look="quiet" height="44px" onClick={() => say({ pushed: false })}>
              No
            </Button>
            <Button size="sm" look="quiet" height="44px" onClick={() => say({ pushed: true })}>
              Yes
            </Button>
          </Flex>
        )}
        {mayWrite && !beingRead && (
          <Flex gap="3" wrap="wrap" mt="0.5">
            {isFound(photo) && photo.doubts.length > 0 && (
              <>
                <Do onClick={() => lay(places_mm)}>It lies right</Do>
                <Do onClick={() => lay(turned_mm)}>Turn it round</Do>
              </>
            )}
            {!chosen && judged && isFound(photo) && (
              <Do onClick={() => say({ picked: true })}>Read by this one</Do>
            )}
            {photo.width > 0 && (
              <Do onClick={onLay}>
                <Crosshair size={14} /> {isFound(photo) ? 'Lay it anew' : 'Lay it by hand'}
              </Do>
            )}
            {!isFound(photo) && <Do onClick={() => lay([])}>Look again</Do>}
            <SelectField
              label="The piece in this photo is"
              hideLabel
              compact
              value={photo.treatment}
              onPick={(key) => say({ treatment: key as TreatmentKey })}
              options={treatments.map(({ key, name }) => ({ value: key, label: name }))}
            />
            {partsComeOut && photo.pushed !== null && (
              <Do onClick={() => say({ pushed: !photo.pushed })}>
                {photo.pushed ? 'Nothing was pushed out before' : 'Taken after pushing'}
              </Do>
            )}
            {me.may_keep && (
              <Link
                href={`/api/photos/${photo.sha256}?untouched=true`}
                title="With the place, time and device the phone wrote into it; members see it without"
                download
                fontSize="14px"
                color="ink2"
              >
                Untouched file
              </Link>
            )}
            <Do onClick={remove} label={`Take this photo of the ${photo.face} away`}>
              <Trash2 size={14} />
            </Do>
          </Flex>
        )}
      </Box>
    </Flex>
  )
}

function Do({
  onClick,
  label,
  children,
}: {
  onClick: () => void
  label?: string
  children: React.ReactNode
}) {
  return (
    <Button
      look="link"
      size="sm"
      fontSize="13.5px"
      gap="1"
      minH={{ base: '44px', lg: '28px' }}
      aria-label={label}
      onClick={onClick}
    >
      {children}
    </Button>
  )
}

function HowFound({ photo }: { photo: Photo }) {
  const off = photo.residual_mm === null ? '' : ` to ${photo.residual_mm.toFixed(2)} mm`
  return (
    <>
      {FOUND_BY[photo.found_by ?? 'corners']}
      {off}
    </>
  )
}

/** How a photo lies under the patches, as the end of a sentence. */
export function FoundBy({ photo }: { photo: Photo }) {
  return (
    <>
      , found by <HowFound photo={photo} />
      {photo.doubts.length > 0 && (
        <Text as="span" color="emberOnSoft" fontWeight="600">
          , doubtful
        </Text>
      )}
    </>
  )
}

function State({ photo }: { photo: ShownPhoto }) {
  if (!isFound(photo)) return <>{photo.trouble}</>
  return (
    <>
      Found by <HowFound photo={photo} />
      {photo.treatment !== 'burned' && `, ${photo.treatment}`}
      {photo.card && ', with the reference card'}
      {photo.pushed && (
        <Text as="span" display="block">
          Taken after parts had been pushed out: what is missing says nothing.
        </Text>
      )}
      {photo.other_rule && (
        <Text as="span" display="block">
          Scored by {photo.rule ? `the rule of ${photo.rule}` : 'the rule of before 28 November 2026'}.
        </Text>
      )}
      {photo.doubts.map((doubt) => (
        <Text as="span" key={doubt} display="block" color="emberOnSoft" fontWeight="600">
          {doubt}
        </Text>
      ))}
    </>
  )
}
