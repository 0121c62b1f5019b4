import { Button } from '../../shared/Button'
import { Text } from '@chakra-ui/react'
import { useState } from 'react'
import { answer, api } from '../../api/client'
import { Card, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import { Checklist, Confirm } from './Checklist'
import type { BurnConditions } from './Conditions'
import { useMounted } from './Mounted'
import { PlaceByEye } from './PlaceByEye'
import { useBurn } from './useBurn'

interface StartProps {
  form: BurnConditions
  /** Why it could not be started, where that belongs to no field. */
  sentence: string | null
}

/** From the checklist to the start, over the live link. */
export function StartCard({ form, sentence }: StartProps) {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const [seen, setSeen] = useState(false)
  const mounted = useMounted(page.head_id)
  const there = seen && mounted.right
  const { begin } = actions
  const start = (how: 'whole' | 'dark') =>
    begin.mutate(() =>
      answer(
        api.POST('/api/trials/{id}/live', {
          params: { path: { id: page.id } },
          body: { ...form, edit: page.edit, how, at_machine: there, mounted: mounted.head },
        }),
      ),
    )
  return (
    <Card p="4">
      <Section title="Before the start">
        <Checklist checks={page.checklist} stands={page.stand_off} />
        {mounted.question}
        <Confirm label={`All seen to, and I stand at ${page.head}.`} checked={seen} onChange={setSeen} />
        {sentence && (
          <Text role="alert" color="emberOnSoft" mb="2">
            {sentence}
          </Text>
        )}
        <Button
          look="ember"
          size="xl"
          width="100%"
          loading={begin.isPending}
          disabled={!there || !me.may_write}
          onClick={() => start('whole')}
        >
          Start the burn
        </Button>
        <PlaceByEye
          there={there}
          mounted={mounted.head}
          planned={() => Promise.resolve(page.edit)}
          onDryRun={() => start('dark')}
        />
        {!me.may_write && (
          <Text mt="2" fontSize="14px" color="ink2">
            You are here as {me.role}; a member can burn.
          </Text>
        )}
      </Section>
    </Card>
  )
}
