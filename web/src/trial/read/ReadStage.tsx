import { Box, Flex, Grid, Text } from '@chakra-ui/react'
import { useEffect, useRef, useState } from 'react'
import { Link as RouterLink, useNavigate } from 'react-router'
import { flatUrl, readBy, useMeasured } from '../../api/photos'
import type { Photo, TrialPageData } from '../../api/types'
import { Legend } from '../../plate/Legend'
import type { PickEvent } from '../../plate/Plate'
import { Button } from '../../shared/Button'
import { KeysHelp } from '../../shared/KeysHelp'
import { Card, Key, Nothing } from '../../shared/Parts'
import { useOutcomeWords, useProcess, useScales, useShop } from '../../shared/ShopContext'
import { TwoVersions } from '../../shared/TwoVersions'
import { OutcomePlate, OutcomeRail } from '../OutcomePlate'
import { PatchTitle, variedKeys } from '../PatchTitle'
import { useActivePatch } from '../useActivePatch'
import { useNotBurned } from '../useNotBurned'
import { Callipers, KeptText } from './Callipers'
import { LayByHand } from './LayByHand'
import { Loupe } from './Loupe'
import { MeasuredFigures } from './MeasuredFigures'
import { PatchLetters } from './PatchLetters'
import { PhotoSays } from './PhotoSays'
import { FoundBy, PhotosCard } from './PhotosCard'
import { ReadSoFar } from './ReadSoFar'
import { ScoreButtons } from './ScoreButtons'
import { changedAs, isScored, lettered, next, scoreDifferences, walk } from './scoring'
import { outcomeOf } from '../../shared/outcome'
import type { Scores } from './scoring'
import { agreed, isOverruled, nextWanted, wantEye } from './suggestions'
import { useFace } from './useFace'
import { readKeys } from './readKeys'
import { useReadings } from './useReadings'

/** Read: the photo under the patches, the least sure first, one key a patch. */
export function ReadStage({ page }: { page: TrialPageData }) {
  const { me } = useShop()
  const navigate = useNavigate()
  const process = useProcess(page.process)
  const scales = useScales(process)
  const { words, question } = useOutcomeWords(process, page.material_id)
  const [face, flip] = useFace()
  const readings = useReadings(page)
  const measured = useMeasured(page.burn?.id, page.photos)
  const toggleNotBurned = useNotBurned(page)
  const [laying, setLaying] = useState<number | null>(null)
  const [selected, setSelected] = useState<ReadonlySet<string>>(new Set())
  const plateRef = useRef<SVGSVGElement>(null)
  const plate = page.burned
  const patches = plate?.patches ?? []
  const order = walk(patches, page.not_burned)
  const scored = (id: string) => isScored(readings.scoresFor(id), process)
  const says = new Map(measured.scores.map((score) => [score.patch, score]))
  const wanted = wantEye(order, scored, says)
  const [chosen, go] = useActivePatch((id) => patches.some((patch) => patch.id === id))
  const active = chosen ?? wanted[0] ?? order[0] ?? null
  useEffect(() => plateRef.current?.focus({ preventScroll: true }), [laying])
  if (!plate || !active) return <Nothing>No patch of this plate was burned.</Nothing>
  const laid = page.photos.find((photo) => photo.id === laying)
  if (laid) return <LayByHand plate={plate} photo={laid} onDone={() => setLaying(null)} />

  const most = words.length - 1
  const patch = patches.find((one) => one.id === active)
  const scores = readings.scoresFor(active)
  const shifted = scales.find((scale) => scale.entry === 'shift_digit')
  const typed = scales.filter((scale) => scale.entry === 'typed')
  const readable = order.includes(active) && me.may_write
  const photos = { front: readBy(page.photos, 'front'), back: readBy(page.photos, 'back') }
  const shown: Photo | undefined = photos[face]
  const figures = {
    front: measured.front.find((row) => row.patch === active),
    back: measured.back.find((row) => row.patch === active),
  }
  const together = selected.size > 0 ? order.filter((id) => selected.has(id) || id === active) : [active]

  const onward = () => {
    const at = wanted.indexOf(active)
    // Where photos have spoken, what they are not sure of comes next; else the next patch of the walk.
    const unsure = at >= 0 && says.size > 0 ? nextWanted(wanted, active) : null
    go(unsure ?? next(order, active))
  }
  const give = (rule: (scores: Scores) => Scores | null, goOn: boolean) => {
    if (!readable) return
    const said = new Map<string, Scores>()
    for (const id of together) {
      const after = rule(readings.scoresFor(id))
      if (after) said.set(id, after)
    }
    if (said.size === 0) return
    readings.score(said)
    if (selected.size > 0) setSelected(new Set())
    if (goOn && together.length === 1) onward()
    else if (chosen !== active) go(active)
  }
  const agree = () => {
    const word = says.get(active)
    if (word && outcomeOf(word, process) !== null)
      give((before) => agreed(before, word, process, scales), true)
  }
  const extend = (id: string) => {
    setSelected((before) => new Set([...before, active, id]))
    go(id)
  }
  const pick = (id: string, event?: PickEvent) => {
    if (event && (event.shiftKey || event.ctrlKey || event.metaKey)) extend(id)
    else {
      setSelected(new Set())
      go(id)
    }
  }
  const undo = () => {
    const undone = readings.undo()
    if (undone) go(undone)
  }
  const beside = `/compare?sides=${page.burn?.id}&face=${face}&patch=${active}`
  const onKeyDown = readKeys({
    patches,
    active,
    mirrored: face === 'back',
    process,
    most,
    scales,
    give,
    go: (id) => pick(id),
    extend,
    agree,
    clear: () => setSelected(new Set()),
    before: () => go(next(order, active, -1)),
    nextUnsure: () => go(nextWanted(wanted, active) ?? active),
    flip,
    compare: () => void navigate(beside),
    notBurned: () => {
      if (patch?.burn && me.may_write) toggleNotBurned(active)
    },
    undo,
  })
  const outcomes = { page, plate, process, words, scoresFor: readings.scoresFor, active, onPick: pick }
  const overruled = (id: string) => isOverruled(readings.readingOf(id), says.get(id), process)
  const flags = figures[process.deciding_face]?.flags ?? []
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
          photo={shown && flatUrl(shown)}
          selected={selected}
          unsure={(id) => says.has(id) && wanted.includes(id)}
          over={(one) => (
            <PatchLetters
              patch={one}
              scores={readings.scoresFor(one.id)}
              scales={scales}
              overruled={overruled(one.id)}
            />
          )}
        />
        <Flex justify="space-between" align="center" mt="2" gap="3" wrap="wrap">
          <Legend words={words} />
          <Text fontSize="14px" color="ink2">
            {face === 'front' ? 'seen from the front' : 'seen from the back'}
            {shown && <FoundBy photo={shown} />}
          </Text>
        </Flex>
        <OutcomeRail {...outcomes} burned={order} />
      </Box>
      <Flex direction="column" gap="3">
        {readings.clash && (
          <TwoVersions
            what={`the reading of ${readings.clash.patch}`}
            rows={scoreDifferences(readings.clash.theirs, readings.clash.mine, words, process, scales)}
            onTheirs={() => readings.settleClash('theirs')}
            onMine={() => readings.settleClash('mine')}
          />
        )}
        {patch && (
          <Card p="4">
            <PatchTitle patch={patch} process={page.process} varied={variedKeys(plate.trial)} compact />
            {(photos.front || photos.back) && (
              <Flex gap="2.5" mt="2">
                {photos.front && (
                  <Loupe plate={plate} patch={patch} photo={photos.front} face="front" caption="front" />
                )}
                {photos.back && (
                  <Loupe
                    plate={plate}
                    patch={patch}
                    photo={photos.back}
                    face="back"
                    caption={process.passes_through ? 'back, which decides' : 'back'}
                  />
                )}
                <MeasuredFigures
                  process={process}
                  front={figures.front}
                  back={figures.back}
                  card={photos.front?.card ?? false}
                />
              </Flex>
            )}
            <Box mt="3">
              {order.includes(active) ? (
                <ScoreButtons
                  process={process}
                  words={words}
                  question={question}
                  scores={scores}
                  together={together.length}
                  suggested={outcomeOf(says.get(active), process)}
                  onNotBurned={patch.burn && me.may_write ? () => toggleNotBurned(active) : undefined}
                  onScore={(after, goOn) => give((before) => changedAs(before, scores, after), goOn)}
                >
                  <PhotoSays
                    photo={says.get(active)}
                    reading={readings.readingOf(active)}
                    process={process}
                    words={words}
                    flags={flags}
                    onAgree={readable ? agree : undefined}
                  />
                </ScoreButtons>
              ) : (
                <Text>{active} was not burned.</Text>
              )}
              {!order.includes(active) && patch.burn && me.may_write && (
                <Button look="link" size="sm" mt="2" onClick={() => toggleNotBurned(active)}>
                  It was burned after all <Key>o</Key>
                </Button>
              )}
            </Box>
          </Card>
        )}
        <ReadSoFar
          order={order}
          wanted={wanted}
          byPhoto={order.filter((id) => readings.readingOf(id)?.said_by === 'photo').length}
          overruled={order.filter(overruled).length}
          hasPhotos={says.size > 0}
          waiting={readings.waiting}
        />
        <Flex gap="2" wrap="wrap">
          <Button look="quiet" onClick={flip}>
            Flip <Key>x</Key>
          </Button>
          <Button asChild look="quiet">
            <RouterLink to={beside}>
              Compare <Key>k</Key>
            </RouterLink>
          </Button>
          <Button look="quiet" disabled={!readings.canUndo} onClick={undo}>
            Undo <Key>u</Key>
          </Button>
          {wanted.length > 0 ? (
            <Button look="ember" ml="auto" onClick={() => go(nextWanted(wanted, active) ?? active)}>
              {says.size > 0 ? 'Next unsure' : 'Next'} <Key>n</Key>
            </Button>
          ) : null}
          <Button
            asChild
            look={wanted.length === 0 ? 'ember' : 'emberLine'}
            ml={wanted.length === 0 ? 'auto' : '0'}
          >
            <RouterLink to={`/trials/${page.id}/decide`}>Decide</RouterLink>
          </Button>
        </Flex>
        {readable && (
          <Card p="3">
            <Flex gap="3" key={[active, ...typed.map((scale) => scores.values[scale.key])].join(' ')}>
              {typed.map((scale) => (
                <Callipers
                  key={scale.key}
                  scale={scale}
                  scores={scores}
                  onKeep={(after) => give((before) => changedAs(before, scores, after), false)}
                />
              ))}
              <KeptText
                label="Note"
                value={scores.note}
                placeholder="What else you see"
                onKeep={(note) => give((before) => ({ ...before, note }), false)}
              />
            </Flex>
          </Card>
        )}
        <PhotosCard page={page} face={face} onLay={(photo) => setLaying(photo.id)} />
      </Flex>
      <KeysHelp
        hints={[
          { keys: ['← → ↑ ↓'], does: 'walk over the patches; with Shift select several' },
          { keys: [`0 … ${most}`], does: `${words[0]} … ${words[most]}, and on to the next` },
          { keys: ['Enter'], does: 'agree with the photos' },
          ...(shifted ? [{ keys: ['Shift', `${shifted.low} … ${shifted.high}`], does: shifted.name }] : []),
          {
            keys: lettered(scales).map((scale) => scale.letter),
            does: 'tags; once more for the next degree',
          },
          { keys: ['t'], does: "can't tell" },
          { keys: ['o'], does: 'not burned, or burned after all' },
          { keys: ['Backspace'], does: 'back to the patch before' },
          { keys: ['n'], does: 'next unsure, the least sure first' },
          { keys: ['x'], does: 'flip the plate' },
          { keys: ['k'], does: 'lay other plates beside it' },
          { keys: ['u'], does: 'undo' },
          { keys: ['Esc'], does: 'select one only' },
        ]}
      />
    </Grid>
  )
}
