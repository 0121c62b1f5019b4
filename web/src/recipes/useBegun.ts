import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { useForgetLists } from '../api/hooks'
import { sayFailed } from '../shared/toast'

type Begin = () => Promise<{ id: number }>

/** Begins a trial, and shows its plan. */
export function useBegun(begin: Begin) {
  const navigate = useNavigate()
  const client = useQueryClient()
  const forgetLists = useForgetLists()
  return useMutation({
    mutationFn: begin,
    onSuccess: ({ id }) => {
      void forgetLists()
      // What it was begun from says so when it is looked at again, however soon that is.
      for (const key of ['trial', 'finding', 'recipe'])
        void client.invalidateQueries({ queryKey: [key], refetchType: 'none' })
      void navigate(`/trials/${id}/plan`)
    },
    onError: sayFailed,
  })
}
