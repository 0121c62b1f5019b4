import { Box, Text } from '@chakra-ui/react'
import { useCallback, useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { ProblemError } from '../api/client'
import type { PhotoTarget } from '../api/photos'
import { isFound, useBringIn } from '../api/photos'
import { photoTarget } from './photoTarget'
import { useShop } from './ShopContext'
import { sayDone, sayFailed } from './toast'
import type { BurnChoice } from './WhichBurn'
import { WhichBurn } from './WhichBurn'

const isPhoto = (file: File) =>
  file.type.startsWith('image/') || /\.(jpe?g|png|webp|hei[cf])$/i.test(file.name)
const photosOf = (data: DataTransfer | null) => Array.from(data?.files ?? []).filter(isPhoto)
const bringsFiles = (event: DragEvent) => event.dataTransfer?.types.includes('Files') ?? false

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
  const [underWay, setUnderWay] = useState(0)
  const [asked, setAsked] = useState<Asked[]>([])
  const take = useCallback(
    async (files: File[], target: PhotoTarget | null) => {
      setUnderWay((count) => count + files.length)
      for (const file of files) {
        try {
          const photo = await bringIn({ file, target })
          const what = `The ${photo.face} of ${photo.moved ? 'another plate: it went there' : 'the plate'}`
          sayDone(isFound(photo) ? `${what}, read.` : `${what}. ${photo.trouble}`)
          void navigate(`/trials/${photo.trial_id}/read?burn=${photo.burn_id}&face=${photo.face}`)
        } catch (error) {
          const choices = error instanceof ProblemError ? error.choices : null
          if (choices && error instanceof ProblemError)
            setAsked((all) => [
              ...all,
              { file, question: error.message, choices: choices as unknown as BurnChoice[] },
            ])
          else sayFailed(error)
        } finally {
          setUnderWay((count) => count - 1)
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
  if (!over && underWay === 0) return null
  return (
    <Box
      position="fixed"
      inset={over ? '3' : 'auto 0 20px 0'}
      mx={over ? '0' : 'auto'}
      width={over ? 'auto' : 'fit-content'}
      zIndex="toast"
      pointerEvents="none"
      role="status"
      borderRadius="card"
      borderWidth={over ? '3px' : '1px'}
      borderStyle={over ? 'dashed' : 'solid'}
      borderColor="steel"
      bg="steelSoft"
      opacity={over ? 0.94 : 1}
      display="grid"
      placeItems="center"
      px="5"
      py="3"
    >
      <Text fontSize={over ? '24px' : '16px'} fontWeight="600" color="steel">
        {over
          ? 'Let go: the photo finds its plate'
          : `Reading ${underWay === 1 ? 'the photo' : `${underWay} photos`} …`}
      </Text>
    </Box>
  )
}
