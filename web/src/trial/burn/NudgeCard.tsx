import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useState } from 'react'
import type { LiveRun } from '../../api/types'
import { Button } from '../../shared/Button'
import { Choice } from '../../shared/Fields'
import { Card, Section } from '../../shared/Parts'
import { useShop } from '../../shared/ShopContext'
import { shown } from '../../shared/units'
import { LENGTH } from '../plan/lengths'
import { useBurn } from './useBurn'
import { useBurnKeys } from './useBurnKeys'
import { TOLD } from './useLiveRun'

const STEPS = ['0.5', '1', '5', '20'] as const
type Step = (typeof STEPS)[number]

/** Which way each arrow moves it: right and up, and where it stands in the pad. */
const WAYS = [
  { key: 'ArrowUp', sign: '↑', name: 'up', right: 0, up: 1, area: 'up' },
  { key: 'ArrowLeft', sign: '←', name: 'left', right: -1, up: 0, area: 'left' },
  { key: 'ArrowDown', sign: '↓', name: 'down', right: 0, up: -1, area: 'down' },
  { key: 'ArrowRight', sign: '→', name: 'right', right: 1, up: 0, area: 'right' },
] as const

/** The outline moved while it goes round, until it lies where one wants it. */
export function NudgeCard({ run }: { run: LiveRun }) {
  const { actions } = useBurn()
  const { me, inventory, units } = useShop()
  const [step, setStep] = useState<Step>('1')
  const mine = run.holder?.id === me.id
  const nudge = (right: number, up: number) =>
    actions.tell(TOLD.nudge(run.key, right * Number(step), up * Number(step)))
  useBurnKeys((key) => {
    const way = WAYS.find((one) => one.key === key)
    if (!way || !mine) return false
    nudge(way.right, way.up)
    return true
  })
  const said = (mm: number) => {
    const { value, unit } = shown(Math.abs(mm), LENGTH, inventory.units, units)
    return `${value} ${unit}`
  }
  const [right = 0, up = 0] = run.nudged
  const moved = [
    ...(right ? [`${said(right)} ${right > 0 ? 'right' : 'left'}`] : []),
    ...(up ? [`${said(up)} ${up > 0 ? 'up' : 'down'}`] : []),
  ]
  return (
    <Card p="3">
      <Section title="Move the plate">
        <Flex gap="4" align="center" wrap="wrap">
          <Grid
            gap="1.5"
            templateColumns="repeat(3, 54px)"
            templateAreas={'". up ." "left down right"'}
            role="group"
            aria-label="Move the plate"
          >
            {WAYS.map(({ key, sign, name, right: x, up: y, area }) => (
              <Button
                key={key}
                look="quiet"
                height="54px"
                px="0"
                fontSize="24px"
                gridArea={area}
                aria-label={name}
                disabled={!mine}
                onClick={() => nudge(x, y)}
              >
                {sign}
              </Button>
            ))}
          </Grid>
          <Box flex="1" minW="140px">
            <Text fontSize="13px" color="ink2" mb="1">
              by so many mm
            </Text>
            <Choice<Step>
              label="Step"
              value={step}
              onPick={setStep}
              options={STEPS.map((value) => ({ value, label: value }))}
            />
          </Box>
        </Flex>
        <Text aria-live="polite" fontSize="17px" fontWeight="600" mt="2">
          {moved.length > 0 ? `Moved ${moved.join(', ')}` : 'Where it was planned'}
        </Text>
        <Text fontSize="14px" color="ink2">
          The next round is there. Stop, and the plan is what you see.
        </Text>
      </Section>
    </Card>
  )
}
