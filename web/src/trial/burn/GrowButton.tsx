import { useMutation } from '@tanstack/react-query'
import { answer, api } from '../../api/client'
import { Button } from '../../shared/Button'
import { useShop } from '../../shared/ShopContext'
import { sayFailed } from '../../shared/toast'
import { useBurn } from './useBurn'

/** One more coupon beside what was burned, at what it says so far: from then on the plate grows. */
export function GrowButton() {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const path = { id: page.id }
  const grow = useMutation({
    mutationFn: async () => {
      const { settings } = await answer(api.GET('/api/trials/{id}/next-coupon', { params: { path } }))
      await answer(
        api.POST('/api/trials/{id}/coupons', {
          params: { path },
          body: { edit: page.edit, settings, units: {} },
        }),
      )
    },
    onSuccess: actions.refresh,
    onError: sayFailed,
  })
  if (!me.may_write) return null
  return (
    <Button look="quiet" size="lg" loading={grow.isPending} onClick={() => grow.mutate()}>
      One more beside it
    </Button>
  )
}
