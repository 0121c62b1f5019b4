import { Flex, Grid } from '@chakra-ui/react'
import { useState } from 'react'
import type { LiveRun } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice, TextField } from '../../shared/Fields'
import { Card, Section } from '../../shared/Parts'
import { useSettingsOn, useShop } from '../../shared/ShopContext'
import { SAID } from './useLiveRun'
import { useBurn } from './useBurn'

/** Which patch burns is reckoned: one tap puts it right. */
export function ByTheClock({ run }: { run: LiveRun }) {
  const { page, actions } = useBurn()
  const { me } = useShop()
  const there = useSettingsOn(page.head_id, page.process)
  const settings = TURNED.flatMap((one) => there.find((other) => other.key === one) ?? [])
  const [key, setKey] = useState(settings[0]?.key ?? 'power_pct')
  const [read, setRead] = useState('')
  const burn = run.burn_id ?? 0
  const at = run.current === null ? run.done.length : run.parts.indexOf(run.current)
  const elsewhere = [
    { part: run.parts[at - 1], says: 'burns just now', none: 'nothing before' },
    { part: run.parts[at + 1], says: 'begins already', none: 'nothing after' },
  ]
  const tell = (way: 'lower' | 'higher' | '') => {
    actions.clock(SAID.corrected(burn, key, way, way ? '' : read))
    setRead('')
  }
  return (
    <>
      <Card p="3">
        <Section title="Is it elsewhere?">
          <Grid templateColumns="repeat(2, minmax(0, 1fr))" gap="2">
            {elsewhere.map(({ part, says, none }) => (
              <Button
                key={none}
                look="quiet"
                height="48px"
                px="2"
                disabled={!me.may_write || part === undefined}
                onClick={() => part !== undefined && actions.clock(SAID.begins(burn, part))}
              >
                {part === undefined ? none : `${part} ${says}`}
              </Button>
            ))}
          </Grid>
        </Section>
      </Card>
      <Card p="3">
        <Section title="Was something turned at the machine?">
          <Flex gap="2" wrap="wrap" align="center">
            <Choice
              label="What was turned"
              value={key}
              onPick={setKey}
              options={settings.map((one) => ({ value: one.key, label: one.name }))}
            />
            {(['lower', 'higher'] as const).map((way) => (
              <Button key={way} look="quiet" height="44px" disabled={!me.may_write} onClick={() => tell(way)}>
                a little {way}
              </Button>
            ))}
            <form
              style={{ display: 'flex', gap: 8, alignItems: 'center' }}
              onSubmit={(event) => {
                event.preventDefault()
                tell('')
              }}
            >
              <TextField
                label="It shows now, or so much more or less"
                hideLabel
                placeholder="35, or +10 %"
                width="120px"
                value={read}
                onChange={(event) => setRead(event.currentTarget.value)}
              />
              <Button type="submit" look="quiet" height="44px" disabled={!me.may_write || !read.trim()}>
                to this
              </Button>
            </form>
          </Flex>
        </Section>
      </Card>
    </>
  )
}

// What one can reach at a machine while it burns.
const TURNED = ['power_pct', 'speed_mm_s', 'focus_offset_mm', 'air_kpa']

/** What somebody sees of a machine that says nothing: it rests, it goes on, it ended. */
export function ClockControls({ run }: { run: LiveRun }) {
  const { actions } = useBurn()
  const { me } = useShop()
  const burn = run.burn_id ?? 0
  const over = run.current === null && !run.stop
  const buttons = [
    ...(over || run.stop
      ? []
      : [
          run.state === 'held'
            ? { says: 'It goes on', look: 'emberLine' as const, ask: SAID.goOn(burn) }
            : { says: 'It rests', look: 'quiet' as const, ask: SAID.pause(burn) },
        ]),
    ...(over ? [] : [{ says: 'It ended here', look: 'quiet' as const, ask: SAID.ended(burn, false) }]),
    { says: 'It is done', look: over ? ('ember' as const) : ('quiet' as const), ask: SAID.ended(burn, true) },
  ]
  return (
    <Flex gap="2">
      {buttons.map(({ says, look, ask }) => (
        <Button
          key={says}
          look={look}
          flex="1"
          px="1"
          height="56px"
          fontSize="16px"
          disabled={!me.may_write}
          onClick={() => actions.clock(ask)}
        >
          {says}
        </Button>
      ))}
    </Flex>
  )
}
