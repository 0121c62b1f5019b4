import { useMutation, useQuery } from '@tanstack/react-query'
import { answer, api } from './client'
import { useForget } from './stale'
import type { Design } from './types'

export type OwnFigure = NonNullable<Design['patch']['figure']>

/** Browsers do not know what a DXF file is. */
const kindOf = (file: File) => (/\.dxf$/i.test(file.name) ? 'image/vnd.dxf' : 'image/svg+xml')

/** What is understood of a drawing, SVG or DXF. */
export const figureIn = async (file: File) =>
  answer(
    api.POST('/api/figures', {
      body: file as unknown as string,
      bodySerializer: () => file,
      headers: { 'Content-Type': kindOf(file) },
    }),
  )

/** What is understood of a figure the shop keeps. */
export const keptFigure = (id: number) =>
  answer(api.GET('/api/kept-figures/{id}', { params: { path: { id } } }))

/** The figures the shop keeps, by name. */
export const useKeptFigures = () =>
  useQuery({
    queryKey: ['kept-figures'],
    queryFn: ({ signal }) => answer(api.GET('/api/kept-figures', { signal })).then(({ figures }) => figures),
  })

/** Keeps a figure for the whole shop under a name. */
export function useKeepFigure() {
  const forget = useForget()
  return useMutation({
    mutationFn: ({ name, figure }: { name: string; figure: OwnFigure }) =>
      answer(
        api.POST('/api/kept-figures', {
          body: { name, svg: figure.svg, close_gaps_mm: figure.close_gaps_mm ?? 0 },
        }),
      ),
    onSuccess: () => forget('figure'),
  })
}

export function useRetireFigure() {
  const forget = useForget()
  return useMutation({
    mutationFn: (id: number) => answer(api.DELETE('/api/kept-figures/{id}', { params: { path: { id } } })),
    onSuccess: () => forget('figure'),
  })
}
