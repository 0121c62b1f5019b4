import { Button } from '../../shared/Button'
import { Box, Flex, Text } from '@chakra-ui/react'
import { useMutation } from '@tanstack/react-query'
import { useState } from 'react'
import { ProblemError, answer, api } from '../../api/client'
import type { Burn, Patch, Run } from '../../api/types'
import { Choice, SelectField } from '../../shared/Fields'
import { Card, Section } from '../../shared/Parts'
import { useProcess, useShop } from '../../shared/ShopContext'
import { sayDone, sayFailed } from '../../shared/toast'
import { Confirm } from './Checklist'
import { useMounted } from './Mounted'
import { OtherwiseFields } from './Otherwise'
import type { Otherwise } from './Otherwise'
import { useBurn } from './useBurn'

type PutBack = Run['put_back']

interface AgainProps {
  burn: Burn
  active: string | null
  chosen: ReadonlySet<string>
  onChoose: (id: string) => void
  /** Several at one stroke; all of them chosen already: none of them. */
  onChooseAll: (ids: string[]) => void
  onClear: () => void
}

/** What can be chosen at one stroke: all, and the row and the column of the patch one is on. */
function strokes(patches: Patch[], active: string | null): { name: string; ids: string[] }[] {
  const burns = patches.filter((patch) => patch.burn)
  const here = burns.find((patch) => patch.id === active)
  const like = (key: 'x_mm' | 'y_mm') =>
    burns.filter((patch) => here && Math.abs(patch[key] - here[key]) < 0.01).map((patch) => patch.id)
  return [
    { name: 'All', ids: burns.map((patch) => patch.id) },
    ...(here
      ? [
          { name: `Row of ${here.id}`, ids: like('y_mm') },
          { name: `Column of ${here.id}`, ids: like('x_mm') },
        ]
      : []),
  ]
}

/** Some patches once more on the piece that has not moved: their passes add up. */
export function AgainCard({ burn, active, chosen, onChoose, onChooseAll, onClear }: AgainProps) {
  const { page, actions } = useBurn()
  const { me, inventory, units } = useShop()
  const process = useProcess(page.process)
  const [passes, setPasses] = useState(1)
  const [settings, setSettings] = useState<Otherwise>({})
  const [putBack, setPutBack] = useState<PutBack>('still')
  const [still, setStill] = useState(false)
  const mounted = useMounted(page.head_id)
  const there = still && mounted.right
  const steps = page.burned?.trial.steps ?? []
  const [step, setStep] = useState(0)
  // Of several steps one is burned again, the last time it was.
  const last = steps.length * ((page.burned?.trial.rounds ?? 1) - 1) + step + 1
  const named = [...chosen].sort()
  const parts = named.map((id) => (steps.length > 1 ? `${id}/${last}` : id))
  const again = (how: { by_hand?: boolean; at_machine?: boolean }) =>
    answer(
      api.POST('/api/burns/{id}/again', {
        params: { path: { id: burn.id } },
        body: {
          patches: parts,
          passes,
          settings,
          units,
          put_back: putBack,
          by_hand: false,
          at_machine: false,
          mounted: mounted.head,
          ...how,
        },
      }),
    )
  const byHand = useMutation({
    mutationFn: () => again({ by_hand: true }),
    onSuccess: async () => {
      sayDone(`${passes === 1 ? 'One more pass' : `${passes} more passes`} on ${named.join(', ')}`)
      begun()
      await actions.refresh()
    },
    onError: (error) => {
      if (!(error instanceof ProblemError)) sayFailed(error)
    },
  })
  const begun = () => {
    setSettings({})
    onClear()
  }
  const error = byHand.error ?? actions.begin.error
  const errors = error instanceof ProblemError ? error.byPath() : new Map<string, string>()
  if (!me.may_write) return null
  return (
    <Card p="4">
      <Section title="Again in place">
        <Text fontSize="14.5px" color="ink2">
          Not enough yet? Choose patches on the plate (<b>a</b>) and burn them once more.
        </Text>
        <Flex gap="2" align="center" mt="2" wrap="wrap">
          <Text fontWeight="600" flex="1" minW="120px">
            {named.length > 0 ? named.join(', ') : 'none chosen'}
          </Text>
          {active && (
            <Button look="quiet" onClick={() => onChoose(active)}>
              {chosen.has(active) ? `Leave ${active}` : `Choose ${active}`}
            </Button>
          )}
        </Flex>
        {steps.length > 1 && (
          <Choice
            label="Which step"
            value={String(step)}
            options={steps.map(({ name }, i) => ({ value: String(i), label: `${i + 1} ${name}` }))}
            onPick={(picked) => setStep(Number(picked))}
          />
        )}
        <Flex gap="2" mt="2" wrap="wrap">
          {strokes(page.burned?.patches ?? [], active).map(({ name, ids }) => (
            <Button key={name} size="sm" onClick={() => onChooseAll(ids)}>
              {name}
            </Button>
          ))}
        </Flex>
        {named.length > 0 && (
          <Box mt="2">
            <Flex align="center" gap="2">
              <Text flex="1">extra passes</Text>
              <Button
                look="quiet"
                minW="44px"
                aria-label="One pass less"
                disabled={passes <= 1}
                onClick={() => setPasses(passes - 1)}
              >
                −
              </Button>
              <Text fontFamily="numeral" fontWeight="700" fontSize="22px" minW="32px" textAlign="center">
                {passes}
              </Text>
              <Button
                look="quiet"
                minW="44px"
                aria-label="One pass more"
                onClick={() => setPasses(passes + 1)}
              >
                +
              </Button>
            </Flex>
            <OtherwiseFields settings={settings} errors={errors} change={setSettings} />
            <Box mt="2">
              <SelectField
                label="The piece"
                compact
                value={putBack}
                onPick={(key) => setPutBack(key as PutBack)}
                options={inventory.forms.put_back.map(({ key, name }) => ({ value: key, label: name }))}
              />
            </Box>
            {putBack !== 'still' && (
              <Text fontSize="14.5px" color="emberOnSoft">
                {process.put_back_doubt}
              </Text>
            )}
            {page.link && (
              <>
                {mounted.question}
                <Confirm
                  label={
                    putBack === 'still'
                      ? `Nothing has moved, and I stand at ${page.head}.`
                      : `It lies where it lay, and I stand at ${page.head}.`
                  }
                  checked={still}
                  onChange={setStill}
                />
              </>
            )}
            <Flex gap="2" mt="2" wrap="wrap">
              {page.link && (
                <Button
                  look="ember"
                  size="lg"
                  disabled={!there}
                  loading={actions.begin.isPending}
                  onClick={() =>
                    actions.begin.mutate(() => again({ at_machine: there }), {
                      onSuccess: begun,
                    })
                  }
                >
                  Burn again
                </Button>
              )}
              <Button look="quiet" size="lg" loading={byHand.isPending} onClick={() => byHand.mutate()}>
                I did it by hand
              </Button>
            </Flex>
          </Box>
        )}
      </Section>
    </Card>
  )
}
