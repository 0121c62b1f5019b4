import { Image } from '@chakra-ui/react'
import { useShop } from '../shared/ShopContext'

/** The page's address as a QR code. */
export function Code({ place, size }: { place: string; size: string }) {
  const { inventory } = useShop()
  return (
    <Image
      src={`/api/qr?place=${encodeURIComponent(place)}`}
      alt={`QR code of this page: ${inventory.shop?.address ?? location.origin}${place}`}
      width={size}
      height={size}
    />
  )
}
