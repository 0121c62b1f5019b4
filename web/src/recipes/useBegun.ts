import { useMutation } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import { useForgetLists } from '../api/hooks'
import { sayFailed } from '../shared/toast'

type Begin = () => Promise<{ id: number }>

/** Begins a trial, and shows its plan. */
export function useBegun(begin: Begin) {
  const navigate = useNavigate()
  const forgetLists = useForgetLists()
  return useMutation({
    mutationFn: begin,
    onSuccess: ({ id }) => {
      void forgetLists()
      void navigate(`/trials/${id}/plan`)
    },
    onError: sayFailed,
  })
}
