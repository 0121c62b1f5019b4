import { Box, Flex, Link, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Camera, Trash2 } from 'lucide-react'
import { answer, api, asItIs } from '../../api/client'
import { trialKey } from '../../api/hooks'
import type { PartPhoto } from '../../api/types'
import { Button } from '../../shared/Button'
import { Card } from '../../shared/Parts'
import { sayDone, sayFailed } from '../../shared/toast'
import { dayAndTime } from '../../shared/words'
import { PhotoField } from './PhotoField'
import { useReader } from './useRead'

/** The part in the hand: photos of its edge, beside what is said of it by eye. Of what stays in its sheet there are none. */
export function PartPhotos() {
  const { page, process, active, mayScore } = useReader()
  const client = useQueryClient()
  const refresh = () => client.invalidateQueries({ queryKey: trialKey(page.id) })
  const burn = page.burn?.id
  const add = useMutation({
    mutationFn: (file: File) =>
      answer(
        api.POST('/api/burns/{id}/parts/{patch}/photos', {
          params: { path: { id: burn ?? 0, patch: active } },
          ...asItIs(file),
        }),
      ),
    onSuccess: refresh,
    onError: sayFailed,
  })
  const remove = useMutation({
    mutationFn: ({ id, removed }: { id: number; removed: boolean }) =>
      answer(api.PUT('/api/part-photos/{id}', { params: { path: { id } }, body: { removed } })),
    onSuccess: async (_, { id, removed }) => {
      await refresh()
      if (removed) sayDone('The photo is taken away.', () => remove.mutate({ id, removed: false }))
    },
    onError: sayFailed,
  })
  const shown = page.part_photos.filter((photo) => photo.patch === active)
  if (!process.passes_through || burn === undefined || (shown.length === 0 && !mayScore)) return null
  return (
    <Card p="3">
      <Flex align="center" gap="2">
        <Text fontWeight="600" fontSize="15px">
          {shown.length === 0 ? `The edge of ${active}` : `The edge of ${active}, in the hand`}
        </Text>
        {mayScore && (
          <Box ml="auto">
            <PhotoField
              label={`Photo of the edge of ${active}`}
              busy={add.isPending}
              onFiles={(files) => Array.from(files ?? []).forEach((file) => add.mutate(file))}
            >
              <Camera size={16} /> {shown.length === 0 ? 'Add a photo' : 'Another'}
            </PhotoField>
          </Box>
        )}
      </Flex>
      {shown.length > 0 && (
        <Flex gap="2" mt="2" wrap="wrap">
          {shown.map((photo) => (
            <EdgePhoto
              key={photo.id}
              photo={photo}
              onRemove={mayScore ? () => remove.mutate({ id: photo.id, removed: true }) : undefined}
            />
          ))}
        </Flex>
      )}
    </Card>
  )
}

function EdgePhoto({ photo, onRemove }: { photo: PartPhoto; onRemove?: () => void }) {
  const said = `${photo.patch}, photo by ${photo.by_name}, ${dayAndTime(photo.at)}`
  return (
    <Flex direction="column" align="flex-start">
      <Link href={`/api/photos/${photo.sha256}`} target="_blank" rel="noreferrer" aria-label={said}>
        <img
          src={`/api/photos/${photo.sha256}`}
          alt=""
          title={said}
          style={{ height: 120, maxWidth: 170, objectFit: 'cover', borderRadius: 6 }}
        />
      </Link>
      {onRemove && (
        <Button look="link" size="sm" onClick={onRemove} aria-label={`Take the photo of ${photo.patch} away`}>
          <Trash2 size={14} /> take away
        </Button>
      )}
    </Flex>
  )
}
