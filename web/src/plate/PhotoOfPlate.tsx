interface PhotoOfPlateProps {
  href: string
  width: number
  height: number
  mirrored: boolean
}

/** A flattened photo, laid on the plate's own millimetres; from the back it is turned like a page. */
export function PhotoOfPlate({ href, width, height, mirrored }: PhotoOfPlateProps) {
  return (
    <image
      href={href}
      width={width}
      height={height}
      preserveAspectRatio="none"
      transform={mirrored ? `translate(${width} 0) scale(-1 1)` : undefined}
      pointerEvents="none"
    />
  )
}
