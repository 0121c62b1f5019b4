import { useCallback } from 'react'
import { useParams } from 'react-router'
import { answer, api } from '../../api/client'
import type { Design, FirstAxis } from '../../api/types'
import { sayFailed } from '../../shared/toast'
import type { Along } from './design'

const amount = (value: unknown) => (typeof value === 'number' ? value : undefined)

/** Asks the server where a setting begins to vary in this trial, and what to hold it at; says why it cannot. */
export function useFirstAxis() {
  const id = Number(useParams().id)
  return useCallback(
    (hold: Design['hold'], parameter: string, along: Along, then: (first: FirstAxis) => void) => {
      const query = {
        parameter,
        along,
        held: amount(hold[parameter]),
        pulse_width: amount(hold.pulse_width_ns),
      }
      answer(api.GET('/api/trials/{id}/first-axis', { params: { path: { id }, query } })).then(
        then,
        sayFailed,
      )
    },
    [id],
  )
}

export type AskFirstAxis = ReturnType<typeof useFirstAxis>
