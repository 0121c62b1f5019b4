import { Button } from '../../shared/Button'
import { Flex, Text } from '@chakra-ui/react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { ProblemError, answer, api } from '../../api/client'
import { liveKey } from '../../api/hooks'
import { Card, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import { Checklist } from './Checklist'
import { Conditions, unplaced, useConditions } from './Conditions'
import { FilesCard } from './FilesCard'
import { FromFile } from './FromFile'
import { StartCard } from './StartCard'
import { TypingSheet } from './TypingSheet'
import { useBurn } from './useBurn'
import { useAddress } from '../../shared/useAddress'

/** How it is burned, once for both ways: over the live link, or from a file with "I burned it". */
export function BurnForm() {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const conditions = useConditions(page)
  const [search] = useAddress()
  const { form } = conditions
  const client = useQueryClient()
  const log = useMutation({
    mutationFn: async (how: 'burned' | 'starts') => {
      const said = { params: { path: { id: page.id } }, body: { ...form, edit: page.edit } }
      if (how === 'burned') await answer(api.POST('/api/trials/{id}/burns', said))
      else client.setQueryData(liveKey(page.id), await answer(api.POST('/api/trials/{id}/by-clock', said)))
    },
    onSuccess: async () => {
      conditions.forget()
      await actions.refresh()
    },
  })
  const error = log.error ?? actions.begin.error
  const errors = error instanceof ProblemError ? error.byPath() : new Map<string, string>()
  const sentence = unplaced(log.error, errors, form)
  const done = (
    <>
      {sentence && (
        <Text role="alert" color="emberOnSoft">
          {sentence}
        </Text>
      )}
      <Flex gap="2" wrap="wrap">
        <Button
          look={page.link ? 'quiet' : 'ember'}
          size="lg"
          loading={log.isPending && log.variables === 'burned'}
          disabled={!me.may_write}
          onClick={() => log.mutate('burned')}
        >
          I burned it
        </Button>
        <Button
          look={page.link ? 'quiet' : 'emberLine'}
          size="lg"
          loading={log.isPending && log.variables === 'starts'}
          disabled={!me.may_write}
          onClick={() => log.mutate('starts')}
        >
          It starts now
        </Button>
      </Flex>
      <Text fontSize="14px" color="ink2">
        {me.may_write
          ? `Logged for ${me.name}, now; “It starts now” follows it by the clock, so that what you note finds its patch. Goggles on, extraction on, and never leave it alone.`
          : `You are here as ${me.role}; a member can log a burn.`}
      </Text>
    </>
  )
  return (
    <>
      {page.link && <StartCard form={form} sentence={unplaced(actions.begin.error, errors, form)} />}
      {!page.link && (
        <>
          <FilesCard />
          {page.plate && <TypingSheet plate={page.plate} code={page.code} />}
          <FromFile title="Before the start">
            <Checklist checks={page.checklist} stands={page.stand_off} />
          </FromFile>
        </>
      )}
      <Card p="4" display="flex" flexDirection="column" gap="3">
        <Section title={conditions.asLastTime ? 'As last time: look at each' : 'How it is burned'}>
          <Conditions {...conditions} errors={errors} />
        </Section>
        {!page.link && done}
      </Card>
      {page.link && (
        <FromFile title="From a file instead" open={search.has('files')}>
          <FilesCard />
          {done}
        </FromFile>
      )}
    </>
  )
}
