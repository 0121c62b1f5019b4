import { useCallback, useMemo } from 'react'
import { designOfStep, errorsOfStep, withStep } from './steps'
import type { Change, DesignHandle } from './useDesign'

/** A design as an editor of one of its steps has it: what it changes goes back into that step. */
export function useStepEditing(handle: DesignHandle, number: number): DesignHandle {
  const several = (handle.design.steps?.length ?? 0) > 0
  const { change: changeWhole } = handle
  const change = useCallback<Change>(
    (edit, field = null) =>
      changeWhole(
        (now) => (now.steps?.length ? withStep(now, number, edit(designOfStep(now, number))) : edit(now)),
        field === null ? null : `steps[${number}].${field}`,
      ),
    [changeWhole, number],
  )
  const design = useMemo(() => designOfStep(handle.design, number), [handle.design, number])
  const errors = useMemo(
    () => errorsOfStep(handle.errors, handle.design, number),
    [handle.errors, handle.design, number],
  )
  return useMemo(
    () => (several ? { ...handle, design, errors, change } : handle),
    [several, handle, design, errors, change],
  )
}
