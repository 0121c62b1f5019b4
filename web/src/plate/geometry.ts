import type { Patch } from '../api/types'

export type Step = 'left' | 'right' | 'up' | 'down'

const MOVES: Record<Step, readonly [number, number]> = {
  left: [0, -1],
  right: [0, 1],
  up: [1, 0],
  down: [-1, 0],
}

/** What the arrow keys mean on a plate. */
export const ARROWS: Record<string, Step> = {
  ArrowLeft: 'left',
  ArrowRight: 'right',
  ArrowUp: 'up',
  ArrowDown: 'down',
}

/**
 * The patch one step away as one sees it, over the borders of blocks, too; the same one at the edge.
 * Of those on the same line it is the nearest.
 */
export function neighbour(patches: Patch[], id: string, step: Step, mirrored = false): string {
  const from = patches.find((patch) => patch.id === id)
  if (!from) return patches[0]?.id ?? id
  const [up, right] = MOVES[step]
  const way = mirrored ? -right : right
  let nearest = from
  let least = Infinity
  for (const patch of patches) {
    const across = patch.x_mm - from.x_mm
    const above = patch.y_mm - from.y_mm
    const ahead = across * way + above * up
    const aside = Math.abs(way === 0 ? across : above)
    if (ahead > 0.01 && aside < 0.01 && ahead < least) {
      nearest = patch
      least = ahead
    }
  }
  return nearest.id
}

/** The patch nearest to a place of the plate, mm from its lower left: where one meant to click. None further off than
 * a patch is large. */
export function nearestPatch(patches: Patch[], x: number, y: number): string | null {
  const away = ({ x_mm, y_mm, width_mm, height_mm }: Patch) =>
    Math.hypot(Math.max(x_mm - x, 0, x - x_mm - width_mm), Math.max(y_mm - y, 0, y - y_mm - height_mm))
  let nearest: Patch | null = null
  for (const patch of patches) if (!nearest || away(patch) < away(nearest)) nearest = patch
  if (!nearest || away(nearest) > Math.min(nearest.width_mm, nearest.height_mm)) return null
  return nearest.id
}

/** Where a pointer is in the units of a drawing, or of a part of one that is moved or scaled. */
export function inDrawing(part: SVGGraphicsElement, at: { clientX: number; clientY: number }): DOMPoint {
  return new DOMPoint(at.clientX, at.clientY).matrixTransform(part.getScreenCTM()?.inverse())
}

/** Left edge of something `width` wide at `x`, seen from the back where the plate is turned like a page. */
export function placed(x: number, width: number, plateWidth: number, mirrored: boolean): number {
  return mirrored ? plateWidth - x - width : x
}

/** Ruler ticks: every 10 mm, or every 50 on large plates; the ends of the ruler carry figures. */
export function ticks(length: number): number[] {
  const every = length > 300 ? 50 : length > 40 ? 10 : 5
  return Array.from({ length: Math.floor(length / every) + 1 }, (_, i) => i * every)
}
