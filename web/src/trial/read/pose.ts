import type { Corner } from '../../api/photos'
import type { Photo, Plate } from '../../api/types'

/** A place on the plate in mm, or in a photo in pixels. */
export type Point = readonly [number, number]

/** Where a place of the plate is in the upright photo: the homography, then the bow of the lens. */
export function toPixels(photo: Pick<Photo, 'matrix' | 'bow' | 'width' | 'height'>, [x, y]: Point): Point {
  const [a, b, c] = photo.matrix ?? []
  if (!a || !b || !c) throw new Error('The plate was not found in this photo.')
  const along = (row: number[]) => (row[0] ?? 0) * x + (row[1] ?? 0) * y + (row[2] ?? 0)
  const depth = along(c)
  const middle: Point = [(photo.width - 1) / 2, (photo.height - 1) / 2]
  const away: Point = [along(a) / depth - middle[0], along(b) / depth - middle[1]]
  const half = Math.hypot(photo.width, photo.height) / 2
  const bow = 1 + (photo.bow ?? 0) * ((away[0] / half) ** 2 + (away[1] / half) ** 2)
  return [middle[0] + away[0] * bow, middle[1] + away[1] * bow]
}

/** Four places one can point at on a photo: the corner marks, or where there are none the outer corners of the
 * array; from the upper left on, clockwise on the plate's front. */
export function cornerPlaces(plate: Plate, shown: 'front' | 'back'): { marks: boolean; places: Point[] } {
  const marks = plate.marks.filter((mark) => mark.kind !== 'qr')
  if (shown === 'front' && marks.length === 4) {
    return { marks: true, places: clockwise(marks.map((mark) => [mark.x_mm, mark.y_mm])) }
  }
  const burned = plate.patches.filter((patch) => patch.burn)
  const left = Math.min(...burned.map((patch) => patch.x_mm))
  const right = Math.max(...burned.map((patch) => patch.x_mm + patch.width_mm))
  const low = Math.min(...burned.map((patch) => patch.y_mm))
  const high = Math.max(...burned.map((patch) => patch.y_mm + patch.height_mm))
  const places: Point[] = [
    [left, high],
    [right, high],
    [right, low],
    [left, low],
  ]
  return { marks: false, places }
}

/** A place of the plate and where it is in the photo, as the server takes it. */
export const corner = ([x_mm, y_mm]: Point, [x_px, y_px]: Point): Corner => ({ x_mm, y_mm, x_px, y_px })

/** The plate as it lies, said by hand: somebody has looked. */
export function asItLies(plate: Plate, photo: Photo): Corner[] {
  return cornerPlaces(plate, photo.face).places.map((place) => corner(place, toPixels(photo, place)))
}

/** The plate turned by half a turn about the middle of its sheet, whose outline looks the same then. */
export function turnedRound(plate: Plate, photo: Photo): Corner[] {
  const { width_mm, height_mm } = plate.plate
  const sheet = photo.sheet_mm ?? [
    [0, 0],
    [width_mm, height_mm],
  ]
  const middle = (axis: 0 | 1) => sheet.reduce((sum, at) => sum + (at[axis] ?? 0), 0) / sheet.length
  return cornerPlaces(plate, photo.face).places.map((place) =>
    corner([2 * middle(0) - place[0], 2 * middle(1) - place[1]], toPixels(photo, place)),
  )
}

function clockwise(points: Point[]): Point[] {
  const x = points.reduce((sum, point) => sum + point[0], 0) / points.length
  const y = points.reduce((sum, point) => sum + point[1], 0) / points.length
  // Screen-wise from the upper left: angles measured from there, going right.
  const angle = (point: Point) => Math.atan2(y - point[1], point[0] - x)
  const start = -0.75 * Math.PI
  const turned = (point: Point) => (angle(point) - start + 2 * Math.PI + 0.4) % (2 * Math.PI)
  return [...points].sort((a, b) => turned(a) - turned(b))
}
