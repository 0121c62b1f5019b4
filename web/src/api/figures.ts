import { answer, api } from './client'

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
