import { useShop } from '../shared/ShopContext'
import { EquipmentForm } from './EquipmentForm'
import { followFamily, materialFields } from './fields'

/** A sheet or blank that is not in the shop's list yet. */
export function NewMaterial({ onDone }: { onDone: (id?: number) => void }) {
  const { inventory } = useShop()
  return (
    <EquipmentForm
      kind="material"
      row={null}
      stored={{
        family: 'wood',
        mark: 'darker',
        processes: inventory.forms.usually_meant_for.wood ?? [],
        hazards: [],
      }}
      fields={(values) => materialFields(inventory, values)}
      follow={followFamily(inventory.forms)}
      onDone={onDone}
    />
  )
}
