import { useMutation, useQuery, useQueryClient, skipToken } from '@tanstack/react-query'
import { useCallback } from 'react'
import { ProblemError, answer, api, asItIs } from './client'
import { trialKey, useForgetLists } from './hooks'
import type {
  BroughtPhoto,
  Face,
  Job,
  Measured,
  Photo,
  ProcessKey,
  ShownPhoto,
  TreatmentKey,
  TrialPageData,
} from './types'

/** The plate from straight above, as this photo shows it. */
export const flatUrl = (photo: Pick<Photo, 'id' | 'edit'>) =>
  `/api/plate-photos/${photo.id}/flat?v=${photo.edit}`

export const isFound = (photo: Photo) => photo.matrix !== null

/** Of a face's photos the one it is read by. */
export function readBy<Some extends Photo>(photos: Some[], face: Face): Some | undefined {
  return photos.find((photo) => photo.face === face && photo.reads)
}

const NOTHING: Measured = { front: [], back: [], scores: [] }

/** What the photos of a burn show of each patch; asked anew when another photo counts, and until that has come
 * `settled` is false and what was shown before stays. */
export function useMeasured(
  burn: number | undefined,
  step: number | undefined,
  photos: Photo[],
): Measured & { settled: boolean } {
  const read = photos.filter(isFound).map(({ id, edit, picked, reads }) => `${id}.${edit}.${picked}.${reads}`)
  const measured = useQuery({
    queryKey: ['measured', burn, step, read.join(' ')],
    queryFn:
      burn === undefined || read.length === 0
        ? skipToken
        : ({ signal }) =>
            answer(
              api.GET('/api/burns/{id}/measured', {
                params: { path: { id: burn }, query: { step } },
                signal,
              }),
            ),
    staleTime: Infinity,
    placeholderData: (previous) => previous,
  })
  const settled = !measured.isLoading && !measured.isPlaceholderData
  return { ...(read.length > 0 ? (measured.data ?? NOTHING) : NOTHING), settled }
}

/** After a photo came or was changed: the trial's page and everything that lists trials. */
function usePhotoChanged() {
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  return useCallback(
    async (photo: BroughtPhoto) => {
      await client.invalidateQueries({ queryKey: trialKey(photo.trial_id) })
      void client.invalidateQueries({ queryKey: ['looks'] })
      void forgetLists()
    },
    [client, forgetLists],
  )
}

export interface PhotoTarget {
  burn: number
  face?: Face
}

interface Bringing {
  file: File
  target: PhotoTarget | null
  /** Told which job it is, as soon as it waits or runs: it can be given up by that. */
  onBegun?: (job: number) => void
}

const isOver = (job: Job) => job.state !== 'waiting' && job.state !== 'running'

/** What came of a job, once it is over; why nothing did is an error like any other. */
async function cameOf<Out>(
  job: Job,
  found: (job: Job) => Out | null,
  onBegun?: (job: number) => void,
): Promise<Out> {
  let now = job
  if (!isOver(now)) onBegun?.(now.id)
  while (!isOver(now))
    now = await answer(api.GET('/api/jobs/{id}', { params: { path: { id: job.id }, query: { wait: true } } }))
  const out = found(now)
  if (out !== null) return out
  const errors = [{ path: now.path, detail: now.sentence }]
  throw new ProblemError(422, now.state, now.sentence, errors, null, null, now.choices ?? null)
}

/** The photo a job is about, once it has been read. */
const photoOf = (job: Job, onBegun?: (job: number) => void) => cameOf(job, ({ photo }) => photo, onBegun)

/** The corners and holes of a piece in a photo with the reference card beside it. */
export const outlineIn = async (file: File) =>
  cameOf(await answer(api.POST('/api/pieces/outline', asItIs(file))), ({ outline }) => outline)

/** Brings a photo in: to the plate whose code it shows, else to the one that is open. */
export function useBringIn() {
  const changed = usePhotoChanged()
  return useMutation({
    mutationFn: async ({ file, target, onBegun }: Bringing) => {
      const query = target ? { burn: target.burn, ...(target.face && { face: target.face }) } : {}
      return photoOf(await answer(api.POST('/api/photos', { params: { query }, ...asItIs(file) })), onBegun)
    },
    onSuccess: changed,
  })
}

export interface PhotoChange {
  treatment?: TreatmentKey
  pushed?: boolean
  removed?: boolean
  picked?: boolean
}

export function useChangePhoto() {
  const changed = usePhotoChanged()
  return useMutation({
    mutationFn: ({ photo, change }: { photo: Pick<Photo, 'id' | 'edit'>; change: PhotoChange }) =>
      answer(
        api.PUT('/api/plate-photos/{id}', {
          params: { path: { id: photo.id } },
          body: { edit: photo.edit, ...change },
        }),
      ),
    onSuccess: changed,
  })
}

type Places = number[][]

/** Places of the plate, and where they are in the photo, as the server takes them. */
const corners = (mm: Places, px: Places) =>
  mm.map(([x_mm = 0, y_mm = 0], i) => {
    const [x_px = 0, y_px = 0] = px[i] ?? []
    return { x_mm, y_mm, x_px, y_px }
  })

/** Lays a plate on its photo by hand: places of the plate, and where they are in the photo; without any it is looked
 * for anew. */
export function usePointCorners() {
  const client = useQueryClient()
  const changed = usePhotoChanged()
  return useMutation({
    mutationFn: async ({ photo, mm, px }: { photo: ShownPhoto; mm: Places; px: Places }) =>
      photoOf(
        await answer(
          api.PUT('/api/plate-photos/{id}/corners', {
            params: { path: { id: photo.id } },
            body: { edit: photo.edit, corners: corners(mm, px) },
          }),
        ),
      ),
    onSuccess: async (photo) => {
      client.setQueriesData<TrialPageData>(
        { queryKey: trialKey(photo.trial_id) },
        (before) =>
          before && {
            ...before,
            photos: before.photos.map((one) => (one.id === photo.id ? { ...one, ...photo } : one)),
          },
      )
      await changed(photo)
    },
  })
}

export interface LookFilter {
  /** L*, a*, b*, or a colour as #rrggbb. */
  shade: string | null
  darknessOnly: boolean
  head: number | null
  material: number | null
  process: ProcessKey | null
}

/** The patches of the shop that look like a shade, and the shades there are. */
export function useLooks({ shade, darknessOnly, head, material, process }: LookFilter) {
  const [lightness, a, b] = shade?.startsWith('#') ? [] : (shade?.split(',').map(Number) ?? [])
  const where = {
    ...(shade && darknessOnly && { darkness_only: true }),
    ...(shade?.startsWith('#') && { colour: shade }),
    ...(lightness !== undefined && { lightness, a, b }),
    ...(head && { head }),
    ...(material && { material }),
    ...(process && { process }),
  }
  return useQuery({
    queryKey: ['looks', where],
    queryFn: ({ signal }) => answer(api.GET('/api/looks', { params: { query: where }, signal })),
    placeholderData: (previous) => previous,
  })
}
