import { SelectField } from './Fields'
import { useShop } from './ShopContext'
import { useAddress } from './useAddress'

/** A filter that stands in the address: its values, and a way to set one. */
export function useFilter() {
  const [search, setSearch] = useAddress()
  const set = (key: string, value: string) => {
    const next = new URLSearchParams(search)
    if (value) next.set(key, value)
    else next.delete(key)
    setSearch(next, { replace: true })
  }
  return {
    text: search.get('text') ?? '',
    process: search.get('process'),
    standing: search.get('standing'),
    view: search.get('view'),
    shade: search.get('shade'),
    darknessOnly: search.get('only') === 'darkness',
    head: Number(search.get('head')) || null,
    material: Number(search.get('material')) || null,
    set,
    /** Nothing but these. */
    only: (parts: Record<string, string | null>) =>
      setSearch(
        Object.fromEntries(Object.entries(parts).filter((part): part is [string, string] => !!part[1])),
      ),
  }
}

export type Filter = ReturnType<typeof useFilter>

/** Which machine and which material. */
export function EquipmentFilter({ filter }: { filter: Filter }) {
  const { inventory } = useShop()
  const choices = [
    { key: 'head', label: 'Machine', every: 'every machine', rows: inventory.heads, value: filter.head },
    {
      key: 'material',
      label: 'Material',
      every: 'every material',
      rows: inventory.materials,
      value: filter.material,
    },
  ]
  return choices.map(({ key, label, every, rows, value }) => (
    <SelectField
      key={key}
      label={label}
      hideLabel
      value={String(value ?? '')}
      onPick={(chosen) => filter.set(key, chosen)}
      options={[
        { value: '', label: every },
        ...rows.map((row) => ({ value: String(row.id), label: row.title })),
      ]}
    />
  ))
}
