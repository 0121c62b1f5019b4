import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useCallback, useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError, answer, api } from '../api/client'
import type { PhotoTarget } from '../api/photos'
import { isFound, useBringIn } from '../api/photos'
import { Button } from './Button'
import { photoTarget } from './photoTarget'
import { useShop } from './ShopContext'
import { sayDone, sayFailed } from './toast'
import type { BurnChoice } from '../api/types'
import { WhichBurn } from './WhichBurn'
import { counted } from './words'

const isPhoto = (file: File) =>
  file.type.startsWith('image/') || /\.(jpe?g|png|webp|hei[cf])$/i.test(file.name)
const photosOf = (data: DataTransfer | null) => Array.from(data?.files ?? []).filter(isPhoto)
const bringsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false

/** A photo that is being read: its own picture, and the job that reads it once there is one. */
interface UnderWay {
  file: File
  picture: string
  job: number | null
}

/** A photo of which somebody has to say which burn it shows. */
interface Asked {
  file: File
  question: string
  choices: BurnChoice[]
}

/** A photo dropped or pasted anywhere finds its trial: by the code in it, else it belongs to the plate on screen. */
export function PhotoDrop() {
  const { me } = useShop()
  const navigate = useNavigate()
  const { mutateAsync: bringIn } = useBringIn()
  const [over, setOver] = useState(false)
  const [underWay, setUnderWay] = useState<UnderWay[]>([])
  const [asked, setAsked] = useState<Asked[]>([])
  const take = useCallback(
    async (files: File[], target: PhotoTarget | null) => {
      const brought = files.map((file) => ({ file, picture: URL.createObjectURL(file), job: null }))
      setUnderWay((all) => [...all, ...brought])
      for (const { file, picture } of brought) {
        const onBegun = (job: number) =>
          setUnderWay((all) => all.map((one) => (one.picture === picture ? { ...one, job } : one)))
        try {
          const photo = await bringIn({ file, target, onBegun })
          const what = `The ${photo.face} of ${photo.moved ? 'another plate: it went there' : 'the plate'}`
          sayDone(isFound(photo) ? `${what}, read.` : `${what}. ${photo.trouble}`)
          void navigate(`/trials/${photo.trial_id}/read?burn=${photo.burn_id}&face=${photo.face}`)
        } catch (error) {
          const choices = error instanceof ProblemError ? error.choices : null
          if (choices && error instanceof ProblemError)
            setAsked((all) => [...all, { file, question: error.message, choices }])
          else if (!(error instanceof ProblemError && error.title === 'cancelled')) sayFailed(error)
        } finally {
          setUnderWay((all) => all.filter((one) => one.picture !== picture))
          URL.revokeObjectURL(picture)
        }
      }
    },
    [bringIn, navigate],
  )
  useEffect(() => {
    if (!me.may_write) return
    const drag = (event: DragEvent) => {
      if (!bringsFiles(event)) return
      event.preventDefault()
      setOver(true)
    }
    const leave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false)
    }
    const drop = (event: DragEvent) => {
      if (!bringsFiles(event)) return
      event.preventDefault()
      setOver(false)
      const photos = photosOf(event.dataTransfer)
      if (photos.length === 0) sayFailed(new Error('That is no photo. Drop a JPEG, PNG, WebP or HEIC.'))
      else void take(photos, photoTarget())
    }
    const paste = (event: ClipboardEvent) => {
      const photos = photosOf(event.clipboardData)
      if (photos.length === 0) return
      event.preventDefault()
      void take(photos, photoTarget())
    }
    document.addEventListener('dragover', drag)
    document.addEventListener('dragleave', leave)
    document.addEventListener('drop', drop)
    document.addEventListener('paste', paste)
    return () => {
      document.removeEventListener('dragover', drag)
      document.removeEventListener('dragleave', leave)
      document.removeEventListener('drop', drop)
      document.removeEventListener('paste', paste)
    }
  }, [me.may_write, take])
  const [first] = asked
  if (first && !over) {
    const done = () => setAsked((all) => all.slice(1))
    return (
      <WhichBurn
        question={first.question}
        choices={first.choices}
        onCancel={done}
        onChoose={(burn) => {
          done()
          void take([first.file], { burn })
        }}
      />
    )
  }
  if (!over) return underWay.length > 0 ? <BeingRead photos={underWay} /> : null
  return (
    <Box
      position="fixed"
      inset="3"
      zIndex="toast"
      pointerEvents="none"
      role="status"
      borderRadius="card"
      borderWidth="3px"
      borderStyle="dashed"
      borderColor="steel"
      bg="steelSoft"
      opacity="0.94"
      display="grid"
      placeItems="center"
    >
      <Text fontSize="24px" fontWeight="600" color="steel">
        Let go: the photo finds its plate
      </Text>
    </Box>
  )
}

/** Photos are seen as soon as they are let go; what they show comes when they have been read. */
function BeingRead({ photos }: { photos: UnderWay[] }) {
  const giveUp = useMutation({
    mutationFn: (job: number) => answer(api.DELETE('/api/jobs/{id}', { params: { path: { id: job } } })),
    onError: sayFailed,
  })
  return (
    <Flex
      position="fixed"
      inset="auto 0 20px 0"
      mx="auto"
      width="fit-content"
      maxW="calc(100vw - 24px)"
      zIndex="toast"
      role="status"
      borderRadius="card"
      borderWidth="1px"
      borderColor="steel"
      bg="steelSoft"
      align="center"
      gap="3"
      px="3"
      py="2"
      wrap="wrap"
    >
      {photos.map(({ file, picture, job }) => (
        <Flex key={picture} align="center" gap="2">
          <Image
            src={picture}
            alt={`${file.name}, being read`}
            width="58px"
            height="44px"
            objectFit="cover"
            borderRadius="6px"
          />
          {job !== null && (
            <Button size="sm" onClick={() => giveUp.mutate(job)} aria-label={`Leave ${file.name}`}>
              Cancel
            </Button>
          )}
        </Flex>
      ))}
      <Text fontSize="16px" fontWeight="600" color="steel">
        Reading {photos.length === 1 ? 'the photo' : counted(photos.length, 'photo')} …
      </Text>
    </Flex>
  )
}
