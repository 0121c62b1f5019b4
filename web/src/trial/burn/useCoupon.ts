import { useMutation, useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import { trialKey } from '../../api/hooks'
import type { Patch, TrialPageData } from '../../api/types'
import { useShop } from '../../shared/ShopContext'
import type { BurnConditions } from './Conditions'
import { useBurn } from './useBurn'

/** Settings of a coupon: as they are offered, or as somebody typed them over. */
export type CouponSettings = Record<string, number | string>

/** Whether a trial is burned coupon by coupon. */
export const grows = ({ design }: Pick<TrialPageData, 'design'>) =>
  Boolean(design.added) || (design.listed?.burned !== null && design.listed?.burned !== undefined)

/** Whether a coupon is planned that has not been burned. */
export const waits = ({ burn, revision }: Pick<TrialPageData, 'burn' | 'revision'>) =>
  !burn || burn.revision < revision

/** The last coupon that was burned and nobody has read yet. */
export function unreadCoupon(page: TrialPageData, outcome: string): string | null {
  const last = page.burned?.patches.at(-1)?.id
  if (!last || page.not_burned.includes(last)) return null
  const read = page.readings.some((one) => one.patch === last && (outcome in one.values || one.cannot_tell))
  return read ? null : last
}

/** The coupon one goes on from. An array that begins to grow has no last one: there it is the one the offer follows. */
function lastBurned({ burned, design }: TrialPageData, after: string | undefined): Patch | undefined {
  const patches = burned?.patches ?? []
  return patches.find(({ id }) => id === after && design.added?.burned === 0) ?? patches.at(-1)
}

/** The coupon to burn next: what is planned, or what is offered after what was read; and everything that is done with
 * it. */
export function useCoupon(unread: string | null) {
  const { page, actions } = useBurn()
  const { units } = useShop()
  const planned = waits(page) ? page.plate?.patches.at(-1) : undefined
  const read = page.readings.map((one) => `${one.patch}${one.edit}`).join(' ')
  const offered = useQuery({
    queryKey: [...trialKey(page.id), 'next-coupon', page.edit, read],
    queryFn: ({ signal }) =>
      answer(api.GET('/api/trials/{id}/next-coupon', { params: { path: { id: page.id } }, signal })),
    enabled: page.burn !== null && unread === null,
    staleTime: Infinity,
  })
  const base: CouponSettings | undefined = planned?.settings ?? offered.data?.settings
  // What was typed belongs to this coupon alone.
  const about = `${page.edit} ${planned?.id ?? offered.data?.after ?? ''}`
  const [typed, setTyped] = useState<{ about: string; settings: CouponSettings }>({ about, settings: {} })
  const own = typed.about === about ? typed.settings : {}
  const set = (key: string, value: number | string) => setTyped({ about, settings: { ...own, [key]: value } })
  const setAll = (settings: CouponSettings) => setTyped({ about, settings })
  const settings = base && { ...base, ...own }

  /** Plans it as it stands now; returns the trial's edit. What is planned so already stays. */
  const plan = async () => {
    if (!settings) throw new Error('There is no coupon to plan.')
    if (planned && Object.keys(own).length === 0) return { edit: page.edit }
    return answer(
      api.POST('/api/trials/{id}/coupons', {
        params: { path: { id: page.id } },
        body: { edit: page.edit, settings, units },
      }),
    )
  }
  const refresh = actions.refresh
  const burned = useMutation({
    mutationFn: async (form: BurnConditions) => {
      const { edit } = await plan()
      await answer(
        api.POST('/api/trials/{id}/burns', { params: { path: { id: page.id } }, body: { ...form, edit } }),
      )
    },
    onSettled: refresh,
  })
  const files = useMutation({
    mutationFn: async () => {
      const { edit } = await plan()
      await answer(api.POST('/api/trials/{id}/files', { params: { path: { id: page.id } }, body: { edit } }))
    },
    onSettled: refresh,
  })
  const score = useMutation({
    mutationFn: (said: { patch: string; values: Record<string, number>; cannot_tell?: boolean }) =>
      answer(
        api.PUT('/api/burns/{id}/patches/{patch}/reading', {
          params: { path: { id: page.burn?.id ?? 0, patch: said.patch } },
          body: {
            edit: page.readings.find((one) => one.patch === said.patch)?.edit ?? 0,
            values: said.values,
            cannot_tell: said.cannot_tell ?? false,
            note: '',
          },
        }),
      ),
    onSettled: refresh,
  })
  const bare = useMutation({
    mutationFn: (patch: string) =>
      answer(
        api.PUT('/api/burns/{id}/patches/{patch}/not-burned', {
          params: { path: { id: page.burn?.id ?? 0, patch } },
          body: { not_burned: true },
        }),
      ),
    onSettled: refresh,
  })
  return {
    planned,
    offered,
    last: lastBurned(page, offered.data?.after),
    settings,
    set,
    setAll,
    plan,
    burned,
    files,
    score,
    bare,
  }
}
