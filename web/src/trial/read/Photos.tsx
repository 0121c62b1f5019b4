import { Button } from '../../shared/Button'
import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Camera } from 'lucide-react'
import { useRef } from 'react'
import { putFile } from '../../api/client'
import { trialKey, useForgetLists } from '../../api/hooks'
import type { Face, TrialPageData } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'

/** The photo of one face, or the place to add it. */
export function FacePhotoBox({ page, face }: { page: TrialPageData; face: Face }) {
  const { me } = useShop()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  const field = useRef<HTMLInputElement>(null)
  const burn = page.burns[0]
  const photo = page.photos.find((one) => one.face === face)
  const attach = useMutation({
    mutationFn: (file: File) => putFile(`/api/burns/${burn?.id}/photos/${face}`, file),
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: trialKey(page.id) })
      void forgetLists()
    },
    onError: sayFailed,
  })
  return (
    <Box>
      {photo && (
        <a href={`/api/photos/${photo.sha256}`} target="_blank" rel="noreferrer">
          <Image
            src={`/api/photos/${photo.sha256}`}
            alt={`The ${face} of the burned plate`}
            maxH="200px"
            width="100%"
            objectFit="contain"
            borderRadius="control"
            bg="line"
          />
        </a>
      )}
      <Flex align="center" gap="2" mt={photo ? '1' : '0'}>
        <Text fontSize="14px" color="ink2">
          {photo ? `Photo of the ${face}` : `No photo of the ${face} yet`}
        </Text>
        <input
          ref={field}
          type="file"
          accept="image/jpeg,image/png"
          aria-label={`Photo of the ${face}`}
          hidden
          onChange={(event) => {
            const file = event.currentTarget.files?.[0]
            event.currentTarget.value = ''
            if (file) attach.mutate(file)
          }}
        />
        {me.may_write && (
          <Button
            look="quiet"
            size="sm"
            ml="auto"
            loading={attach.isPending}
            onClick={() => field.current?.click()}
          >
            <Camera size={16} /> {photo ? 'Another' : 'Add a photo'}
          </Button>
        )}
      </Flex>
    </Box>
  )
}
