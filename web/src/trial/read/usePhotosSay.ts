import { readBy, useMeasured } from '../../api/photos'
import type { Face, PhotoScore, ShownPhoto, TrialPageData } from '../../api/types'
import { shownStep } from '../shownBurn'

/** What the photos of a burn show: which one each face is read by, and their word on each patch. */
export function usePhotosSay(page: TrialPageData) {
  const measured = useMeasured(page.burn?.id, shownStep(page), page.photos)
  const readBoth: Record<Face, ShownPhoto | undefined> = {
    front: readBy(page.photos, 'front'),
    back: readBy(page.photos, 'back'),
  }
  const says: ReadonlyMap<string, PhotoScore> = new Map(measured.scores.map((score) => [score.patch, score]))
  const figuresOf = (patch: string, face: Face) => measured[face].find((row) => row.patch === patch)
  return { read: readBoth, says, figuresOf, settled: measured.settled }
}
