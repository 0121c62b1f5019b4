import { Flex, Text } from '@chakra-ui/react'
import { memo } from 'react'
import type { DesignStep, Process } from '../../api/types'
import { Button } from '../../shared/Button'
import { useParameter } from '../../shared/ShopContext'
import { FigureField } from './FigureField'
import { Fold } from './Fold'
import { LENGTH } from './lengths'
import { LettersField } from './LettersField'
import { Sentences } from './Sentences'
import { asPlain, asSteps, changeStep, wayWords } from './steps'
import type { Change } from './useDesign'

interface StepWayProps {
  /** The step; nothing where a trial of one process has said nothing of it yet. */
  step: DesignStep | undefined
  /** Which one it is, from 0, and of how many. */
  number: number
  count: number
  process: Process
  /** What it holds its lines apart. */
  spacing: number | string | undefined
  errors: ReadonlyMap<string, string>
  change: Change
  settle: () => void
}

const ABOUT = ['part', 'one_way', 'inset_mm', 'hatch', 'text', 'letters', 'name'] as const

/** How a step goes over its figure: how far inside, filled one way or to and fro, in sets of lines over one another. */
export const StepWay = memo(function StepWay(props: StepWayProps) {
  const { number, count, process, spacing, errors, change, settle } = props
  const parameter = useParameter()
  const step = props.step ?? { name: process.name.toLowerCase(), process: process.key, hold: {} }
  const edit = (part: Partial<DesignStep>, field: string | null = null) =>
    change((now) => asPlain(changeStep(asSteps(now, process), number, part)), field)
  const path = (key: string) => `steps[${number}].${key}`
  const inside = new Map(
    [...errors]
      .filter(([at]) => at.startsWith(path('')))
      .map(([at, sentence]) => [at.slice(path('').length), sentence]),
  )
  const sets = step.hatch ?? []
  const over = sets.slice(1)
  const withSets = (next: typeof over) => edit({ hatch: next.length > 0 ? [sets[0] ?? {}, ...next] : null })
  return (
    <Fold title="Over the figure" says={wayWords(step) || 'as usual'} errors={inside} about={ABOUT}>
      <Flex gap="2" align="flex-end">
        <FigureField
          name="stays inside it by"
          label="How far inside the figure"
          value={step.inset_mm ?? 0}
          parameter={LENGTH}
          error={inside.get('inset_mm')}
          onType={(text) => edit({ inset_mm: text.trim() === '' ? null : text }, path('inset_mm'))}
          onLeave={settle}
        />
        {process.fills && (
          <Flex direction="column" flex="2" gap="1">
            <Tick
              label="one way: every line runs forward"
              on={Boolean(step.one_way)}
              onTick={(on) => edit({ one_way: on || null })}
            />
            <Tick
              label="then follow the outline"
              on={step.part === 'both'}
              onTick={(on) => edit({ part: on ? 'both' : null })}
            />
          </Flex>
        )}
      </Flex>
      <LettersField
        label="Letters in place of the figure"
        text={step.text ?? ''}
        letters={step.letters}
        filled={process.fills}
        onText={(text) => edit({ text: text || null, letters: text ? step.letters : null }, path('text'))}
        onLetters={(letters) => edit({ letters })}
      />
      {process.fills &&
        over.map((set, i) => (
          <Flex key={i} gap="2" mt="2" align="flex-end">
            {(['line_spacing_mm', 'hatch_angle_deg'] as const).map((key) => (
              <FigureField
                key={key}
                name={
                  i === 0 || key !== 'line_spacing_mm'
                    ? `lines over it, ${parameter(key).name}`
                    : parameter(key).name
                }
                label={`${parameter(key).name} of set ${i + 2}`}
                value={set[key] ?? (key === 'hatch_angle_deg' ? 0 : undefined)}
                parameter={parameter(key)}
                error={inside.get(`hatch[${i + 1}].${key}`)}
                onType={(text) =>
                  edit(
                    {
                      hatch: [
                        sets[0] ?? {},
                        ...over.map((one, j) => (j === i ? { ...one, [key]: text } : one)),
                      ],
                    },
                    path(`hatch[${i + 1}].${key}`),
                  )
                }
                onLeave={settle}
              />
            ))}
            <Button
              size="sm"
              aria-label={`Without set ${i + 2}`}
              onClick={() => withSets(over.filter((_, j) => j !== i))}
            >
              ×
            </Button>
          </Flex>
        ))}
      {process.fills && over.length < 7 && (
        <Button
          look="link"
          size="sm"
          mt="1"
          onClick={() => withSets([...over, { line_spacing_mm: spacing ?? 0.1, hatch_angle_deg: 90 }])}
        >
          Lay another set of lines over it
        </Button>
      )}
      {[...inside].map(([at]) => (
        <Sentences key={at} errors={inside} about={at} />
      ))}
      {count > 1 && (
        <Text fontSize="14px" color="ink2" mt="1">
          Step {number + 1} of {count}, called {step.name}.
        </Text>
      )}
    </Fold>
  )
})

function Tick({ label, on, onTick }: { label: string; on: boolean; onTick: (on: boolean) => void }) {
  return (
    <Flex as="label" gap="2" align="center" fontSize="14px" minH="32px">
      <input
        type="checkbox"
        checked={on}
        onChange={({ currentTarget }) => onTick(currentTarget.checked)}
        style={{ width: 18, height: 18 }}
      />
      {label}
    </Flex>
  )
}
