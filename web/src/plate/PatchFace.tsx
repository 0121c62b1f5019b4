import type { SVGProps } from 'react'
import { onScale } from '../theme/palette'

export type PatchShape = 'rectangle' | 'disc' | 'coupon' | 'lettering'

interface PatchFaceProps extends Omit<SVGProps<SVGPathElement>, 'width' | 'height'> {
  shape?: PatchShape
  width: number
  height: number
}

/** The face of a patch in its shape, in a box whose upper left is at 0, 0. Lettering is shown as its box. */
export function PatchFace({ shape = 'rectangle', width, height, ...paint }: PatchFaceProps) {
  if (shape === 'disc') return <path d={ellipse(width / 2, height / 2, width / 2, height / 2)} {...paint} />
  if (shape === 'coupon') {
    const radius = 0.11 * Math.min(width, height)
    // The same coupon as the beam follows: sharp corner, straight edge, half an ellipse; its small hole is a ring,
    // so that what stands on the patch stays readable.
    const around = `M0,${height}H${width / 2}A${width / 2},${height / 2} 0 0 0 ${width / 2},0Z`
    const hole = ellipse(0.55 * width, 0.54 * height, radius, radius)
    return (
      <>
        <path d={around} {...paint} />
        <path d={hole} fill="none" stroke={onScale.pale} strokeWidth={radius * 0.18} opacity={0.4} />
      </>
    )
  }
  const r = Math.min(width, height) * 0.05
  return (
    <path
      d={`M${r},0H${width - r}Q${width},0 ${width},${r}V${height - r}Q${width},${height} ${width - r},${height}H${r}Q0,${height} 0,${height - r}V${r}Q0,0 ${r},0Z`}
      {...paint}
    />
  )
}

function ellipse(x: number, y: number, rx: number, ry: number): string {
  return `M${x},${y + ry}A${rx},${ry} 0 1 0 ${x},${y - ry}A${rx},${ry} 0 1 0 ${x},${y + ry}Z`
}
