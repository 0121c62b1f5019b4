import { Button } from '../../shared/Button'
import { Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { ProblemError, post } from '../../api/client'
import type { TrialPageData } from '../../api/types'
import { Card, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import { Conditions, unplaced, useConditions } from './Conditions'
import type { BurnActions } from './useLiveRun'

/** "I burned it" is one action; the conditions are those of last time until somebody says otherwise. */
export function BurnForm({ page, actions }: { page: TrialPageData; actions: BurnActions }) {
  const { me } = useShop()
  const conditions = useConditions(page)
  const { form } = conditions
  const burn = useMutation({
    mutationFn: () => post<{ id: number }>(`/api/trials/${page.id}/burns`, { ...form, edit: page.edit }),
    onSuccess: actions.refresh,
  })
  const errors = burn.error instanceof ProblemError ? burn.error.byPath() : new Map<string, string>()
  const sentence = unplaced(burn.error, errors, form)
  return (
    <Card p="4">
      <Section title={conditions.asLastTime ? 'As last time, unless you change it' : 'How it is burned'}>
        <form
          onSubmit={(event) => {
            event.preventDefault()
            burn.mutate()
          }}
        >
          <Conditions {...conditions} errors={errors} />
          {sentence && (
            <Text role="alert" color="emberOnSoft" mt="2">
              {sentence}
            </Text>
          )}
          <Button
            type="submit"
            look={page.link ? 'quiet' : 'ember'}
            size="lg"
            mt="3"
            loading={burn.isPending}
            disabled={!me.may_write}
          >
            I burned it
          </Button>
          <Text mt="2" fontSize="14px" color="ink2">
            {me.may_write
              ? `Logged for ${me.name}, now. Goggles on, extraction on, and never leave it alone.`
              : `You are here as ${me.role}; a member can log a burn.`}
          </Text>
        </form>
      </Section>
    </Card>
  )
}
