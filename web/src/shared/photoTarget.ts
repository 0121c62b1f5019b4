import { useEffect } from 'react'
import type { PhotoTarget } from '../api/photos'

let target: PhotoTarget | null = null

/** While this is on screen, photos without a code are taken to be of this burn. */
export function useAsPhotoTarget(burn: number | undefined) {
  useEffect(() => {
    target = burn === undefined ? null : { burn }
    return () => {
      target = null
    }
  }, [burn])
}

export const photoTarget = () => target
