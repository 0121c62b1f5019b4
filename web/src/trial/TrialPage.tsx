import { Flex } from '@chakra-ui/react'
import { Suspense, useMemo } from 'react'
import type { ComponentType } from 'react'
import { Navigate, useParams } from 'react-router'
import { useTrial } from '../api/hooks'
import type { Process, TrialPageData } from '../api/types'
import { Failure, Nothing, PageTitle, Waiting } from '../shared/Parts'
import { OnHead, useShop } from '../shared/ShopContext'
import { later } from '../shared/later'
import { useAsPhotoTarget } from '../shared/photoTarget'
import { day, dayAndTime, trialName } from '../shared/words'
import { BurnChoice } from './BurnChoice'
import { grows } from './burn/useCoupon'
import { plateOfStep } from '../plate/ofStep'
import { burnQuery, shownStep, useShownBurn } from './shownBurn'
import type { Shown } from './shownBurn'
import { StepChoice } from './StepChoice'
import { STAGES, StageNav } from './StageNav'
import type { StageName } from './StageNav'
import { TrialName } from './TrialName'

type StageOf = ComponentType<{ page: TrialPageData }>

// A stage is fetched when one comes to it.
const STAGE: Record<StageName, StageOf> = {
  plan: later(() => import('./plan/PlanStage').then((stage) => stage.PlanStage)),
  burn: later(() => import('./burn/BurnStage').then((stage) => stage.BurnStage)),
  read: later(() => import('./read/ReadStage').then((stage) => stage.ReadStage)),
  decide: later(() => import('./decide/DecideStage').then((stage) => stage.DecideStage)),
}

const FIRST_STAGE: Record<TrialPageData['stage'], StageName> = {
  plan: 'plan',
  burn: 'burn',
  read: 'read',
  decide: 'decide',
  kept: 'decide',
}

/** One trial, one plate, four stages. */
export function TrialPage() {
  const params = useParams()
  const id = Number(params.id)
  const shown = useShownBurn()
  const trial = useTrial(id, shown)
  useAsPhotoTarget(trial.data?.burn?.id)
  if (!Number.isInteger(id)) return <Nothing>There is no such trial.</Nothing>
  if (trial.isError) return <Failure error={trial.error} retry={() => void trial.refetch()} />
  if (!trial.data) return <Waiting what="the trial" height="70vh" />
  return <Loaded page={trial.data} shown={shown} />
}

/** A burned plate as the step it is shown by has it: its axes, and what is done in it. */
function useByStep(page: TrialPageData, read: boolean): TrialPageData {
  return useMemo(() => {
    const burned = page.burned && plateOfStep(page.burned, page.burned.judged)
    const step = read ? page.steps.find((one) => one.shown) : undefined
    return { ...page, burned, process: step?.process ?? page.process }
  }, [page, read])
}

function Loaded({ page: whole, shown }: { page: TrialPageData; shown: Shown }) {
  const params = useParams()
  const page = useByStep(whole, params.stage === 'read' || params.stage === 'decide')
  const { inventory } = useShop()
  const { id } = page
  const stage = STAGES.find((name) => name === params.stage)
  const first = grows(page) && page.stage !== 'kept' ? 'burn' : FIRST_STAGE[page.stage]
  if (!stage) return <Navigate to={`/trials/${id}/${first}${burnQuery(shown)}`} replace />
  const Stage = STAGE[stage]
  const needsBurn = stage === 'read' || stage === 'decide'
  if (needsBurn && !page.burned) return <Navigate to={`/trials/${id}/burn${burnQuery(shown)}`} replace />
  return (
    <OnHead value={page.head_id}>
      <Flex justify="space-between" align="flex-start" wrap={{ base: 'wrap', lg: 'nowrap' }} gap="3">
        <PageTitle
          under={
            <Flex as="span" columnGap="4" wrap="wrap" align="center">
              <Under page={page} />
              <TrialName page={page} />
            </Flex>
          }
        >
          {page.material}, {workOf(page, inventory.processes)} on {page.head}
        </PageTitle>
        <StageNav page={page} stage={stage} />
      </Flex>
      {stage !== 'plan' && (
        <Flex mb="3" gap="3" wrap="wrap" align="center">
          <BurnChoice page={page} />
          {needsBurn && <StepChoice page={page} />}
        </Flex>
      )}
      <Suspense fallback={<Waiting what="the stage" height="60vh" />}>
        <Stage
          key={stage === 'plan' ? page.id : `${page.burn?.id} ${page.burn?.treatment} ${shownStep(page)}`}
          page={page}
        />
      </Suspense>
    </OnHead>
  )
}

/** What is done to it, by all its steps. */
function workOf({ steps, process_name }: TrialPageData, processes: Process[]): string {
  const names = steps.map(({ process }) => processes.find((one) => one.key === process)?.name ?? process)
  return [...new Set(names.length > 0 ? names : [process_name])].join(', ').toLowerCase()
}

function Under({ page }: { page: TrialPageData }) {
  const burn = page.burn
  const parts = [page.name ? `${trialName(page.number)} ${page.name}` : trialName(page.number)]
  if (page.put_away_at) parts.push('put away')
  if (page.revision > 1 && !grows(page)) parts.push(`revision ${page.revision}`)
  parts.push(
    burn ? `burned ${dayAndTime(burn.at)} by ${burn.by_name}` : `planned ${day(page.at)} by ${page.author}`,
  )
  return <>{parts.join(' · ')}</>
}
