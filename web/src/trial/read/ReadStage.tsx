import { Button } from '../../shared/Button'
import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import type { KeyboardEvent } from 'react'
import { Link as RouterLink } from 'react-router'
import type { Face, Patch, TrialPageData } from '../../api/types'
import { ARROWS, neighbour } from '../../plate/geometry'
import { Legend } from '../../plate/Legend'
import { SvgText } from '../../plate/SvgText'
import { TextField } from '../../shared/Fields'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Key, Nothing } from '../../shared/Parts'
import { useProcess, useShop } from '../../shared/ShopContext'
import { TwoVersions } from '../../shared/TwoVersions'
import { palette } from '../../theme/palette'
import { PatchTitle, variedKeys } from '../PatchTitle'
import { OutcomePlate, OutcomeRail } from '../OutcomePlate'
import { useNotBurned } from '../useNotBurned'
import { useActivePatch } from '../useActivePatch'
import { FacePhotoBox } from './Photos'
import { ScoreButtons } from './ScoreButtons'
import {
  isScored,
  lettersFor,
  next,
  nextUnscored,
  shiftedDigit,
  walk,
  withCannotTell,
  withDigit,
  withEvenness,
  withLetter,
} from './scoring'
import { scoreDifferences } from './scoring'
import type { Scores } from './scoring'
import { useReadings } from './useReadings'

/** Read: walk the plate, one key a patch. */
export function ReadStage({ page }: { page: TrialPageData }) {
  const { inventory, me } = useShop()
  const process = useProcess(page.process)
  const [face, setFace] = useState<Face>('front')
  const readings = useReadings(page)
  const toggleNotBurned = useNotBurned(page)
  const plateRef = useRef<SVGSVGElement>(null)
  const plate = page.burned
  const patches = plate?.patches ?? []
  const order = walk(patches, page.not_burned)
  const scored = (id: string) => isScored(readings.scoresFor(id))
  const [chosen, go] = useActivePatch((id) => patches.some((patch) => patch.id === id))
  const active = chosen ?? order.find((id) => !scored(id)) ?? order[0] ?? null
  useEffect(() => plateRef.current?.focus({ preventScroll: true }), [])
  if (!plate || !active) return <Nothing>No patch of this plate was burned.</Nothing>

  const words = process.outcome === 'through' ? inventory.words.through : inventory.words.darkness
  const most = words.length - 1
  const done = order.filter(scored).length
  const patch = patches.find((one) => one.id === active)
  const scores = readings.scoresFor(active)
  const letters = lettersFor(process.key, inventory.words.degrees, inventory.words.tags)
  const readable = order.includes(active) && me.may_write

  const give = (next_: Scores, goOn: boolean) => {
    if (!readable) return
    readings.score(active, next_)
    if (goOn) go(next(order, active))
    else if (chosen !== active) go(active)
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return
    const even = shiftedDigit(event)
    const step = ARROWS[event.key]
    const handled = () => event.preventDefault()
    if (step) go(neighbour(patches, active, step, face === 'back'))
    else if (even !== null) {
      const given = withEvenness(scores, even, process)
      if (given) give(given, false)
    } else if (/^\d$/.test(event.key)) {
      const given = withDigit(scores, Number(event.key), process, most)
      if (given) give(given, true)
    } else if (letters.includes(event.key)) give(withLetter(scores, event.key), false)
    else if (event.key === 't') give(withCannotTell(scores), true)
    else if (event.key === 'o' && patch?.burn && me.may_write) toggleNotBurned(active)
    else if (event.key === 'Backspace') go(next(order, active, -1))
    else if (event.key === 'n') go(nextUnscored(order, active, scored) ?? active)
    else if (event.key === 'x') setFace(face === 'front' ? 'back' : 'front')
    else if (event.key === 'u') {
      const undone = readings.undo()
      if (undone) go(undone)
    } else return
    handled()
  }
  const outcomes = { page, plate, process, words, scoresFor: readings.scoresFor, active, onPick: go }
  return (
    <Grid
      templateColumns={{ base: '1fr', lg: 'minmax(0, 1fr) 392px' }}
      gap="6"
      alignItems="start"
      pb={{ base: '84px', lg: '0' }}
    >
      <Box minW="0">
        <OutcomePlate
          {...outcomes}
          ref={plateRef}
          label={`The ${face} of plate ${page.code}. Digits score, arrows walk.`}
          onKeyDown={onKeyDown}
          mirrored={face === 'back'}
          over={(one) => <Marks patch={one} scores={readings.scoresFor(one.id)} />}
        />
        <Flex justify="space-between" align="center" mt="2" gap="3" wrap="wrap">
          <Legend words={words} />
          <Text fontSize="14px" color="ink2">
            {face === 'front' ? 'seen from the front' : 'seen from the back'}
          </Text>
        </Flex>
        <OutcomeRail {...outcomes} burned={order} />
      </Box>
      <Flex direction="column" gap="3">
        {readings.clash && (
          <TwoVersions
            what={`the reading of ${readings.clash.patch}`}
            rows={scoreDifferences(readings.clash.theirs, readings.clash.mine, words, process)}
            onTheirs={() => readings.settleClash('theirs')}
            onMine={() => readings.settleClash('mine')}
          />
        )}
        {patch && (
          <Card p="4">
            <PatchTitle patch={patch} process={page.process} varied={variedKeys(plate.trial)} />
            <Box mt="3">
              {order.includes(active) ? (
                <ScoreButtons process={process} scores={scores} onScore={give} />
              ) : (
                <Text>{active} was not burned.</Text>
              )}
              {patch.burn && me.may_write && (
                <Button look="link" size="sm" mt="2" onClick={() => toggleNotBurned(active)}>
                  {order.includes(active) ? 'It was not burned' : 'It was burned after all'} <Key>o</Key>
                </Button>
              )}
            </Box>
            <Box mt="3">
              <NoteField
                key={active}
                value={scores.note}
                onKeep={(note) => give({ ...scores, note }, false)}
              />
            </Box>
          </Card>
        )}
        <Card p="3">
          <FacePhotoBox page={page} face={face} />
        </Card>
        <Box>
          <Flex justify="space-between" fontSize="15px" mb="1">
            <Text fontWeight="600">
              {done} of {order.length} read
            </Text>
            <Text color="ink2" aria-live="polite">
              {readings.waiting ? 'keeping …' : 'kept'}
            </Text>
          </Flex>
          <Box height="8px" borderRadius="4px" bg="line" overflow="hidden">
            <Box height="100%" width={`${(100 * done) / Math.max(order.length, 1)}%`} bg="steel" />
          </Box>
        </Box>
        <Flex gap="2" wrap="wrap">
          <Button look="quiet" onClick={() => setFace(face === 'front' ? 'back' : 'front')}>
            Flip <Key>x</Key>
          </Button>
          <Button
            look="quiet"
            disabled={!readings.canUndo}
            onClick={() => {
              const undone = readings.undo()
              if (undone) go(undone)
            }}
          >
            Undo <Key>u</Key>
          </Button>
          {done < order.length ? (
            <Button look="quiet" onClick={() => go(nextUnscored(order, active, scored) ?? active)}>
              Next <Key>n</Key>
            </Button>
          ) : null}
          <Button asChild look={done === order.length ? 'ember' : 'emberLine'} ml="auto">
            <RouterLink to={`/trials/${page.id}/decide`}>Decide</RouterLink>
          </Button>
        </Flex>
      </Flex>
      <KeysHelp
        hints={[
          { keys: ['← → ↑ ↓'], does: 'walk over the patches' },
          { keys: [`0 … ${most}`], does: `${words[0]} … ${words[most]}, and on to the next` },
          ...(process.outcome === 'darkness' ? [{ keys: ['Shift', '0 … 3'], does: 'how even it is' }] : []),
          { keys: letters, does: 'tags; once more for the next degree' },
          { keys: ['t'], does: "can't tell" },
          { keys: ['o'], does: 'not burned, or burned after all' },
          { keys: ['Backspace'], does: 'back to the patch before' },
          { keys: ['n'], does: 'next unread' },
          { keys: ['x'], does: 'flip the plate' },
          { keys: ['u'], does: 'undo' },
        ]}
      />
    </Grid>
  )
}

/** Small letters under the glyph for what was tagged. */
function Marks({ patch, scores }: { patch: Patch; scores: Scores }) {
  const letters = [
    scores.char ? 'c'.repeat(scores.char) : '',
    scores.soot ? 's'.repeat(scores.soot) : '',
    ...scores.tags.map((tag) => tag.charAt(0)),
    scores.note ? '*' : '',
  ].filter(Boolean)
  if (letters.length === 0) return null
  const size = Math.min(patch.height_mm, patch.width_mm) * 0.17
  return (
    <SvgText
      x={patch.width_mm * 0.95}
      y={patch.height_mm * 0.95}
      size={size}
      anchor="end"
      weight={600}
      colour={palette.ink2}
    >
      {letters.join(' ')}
    </SvgText>
  )
}

function NoteField({ value, onKeep }: { value: string; onKeep: (note: string) => void }) {
  const [text, setText] = useState(value)
  return (
    <TextField
      label="Note"
      value={text}
      onChange={(event) => setText(event.currentTarget.value)}
      onBlur={() => text !== value && onKeep(text)}
      onKeyDown={(event) => event.key === 'Enter' && text !== value && onKeep(text)}
      placeholder="What else you see"
    />
  )
}
