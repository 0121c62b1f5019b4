import { Button } from '../shared/Button'
import { sayFailed } from '../shared/toast'
import type { Values } from '../forms/fields'
import { useSave } from '../forms/useEquipment'
import type { Kind } from '../forms/useEquipment'

interface RetireButtonProps {
  kind: Kind
  row: { id: number; edit: number; title: string; retired: boolean }
  facts: Values
  onDone: () => void
}

/** Retires instead of deleting: plates and recipes go on referring to it, nothing new is planned with it. */
export function RetireButton({ kind, row, facts, onDone }: RetireButtonProps) {
  const save = useSave(kind, row.title)
  return (
    <Button
      ml="auto"
      loading={save.isPending}
      onClick={() =>
        save.mutate({ facts, row, retired: !row.retired }, { onSuccess: onDone, onError: sayFailed })
      }
    >
      {row.retired ? 'Take back into use' : 'Retire'}
    </Button>
  )
}
