import type { Aim, Candidate } from '../api/types'

/** What an aim is called on its pin. */
export const PIN_OF: Record<Aim, string> = {
  fastest: 'fastest',
  gentlest: 'gentlest',
  forgiving: 'forgiving',
  cleanest: 'cleanest',
  darkness: 'as wanted',
  depth: 'as deep',
  colour: 'the colour',
}

/** What an aim is called on its card. A cut that holds on fewer than 99 of 100 fresh sheets is not said to hold. */
export function titleOf({ aim, certain, predicted }: Candidate): string {
  const share = shareOf(predicted) !== null
  switch (aim) {
    case 'fastest':
      return share
        ? certain
          ? 'Fastest that holds'
          : 'Fastest so far, not yet certain'
        : 'Fastest plain mark'
    case 'gentlest':
      return 'Gentlest on the source'
    case 'forgiving':
      return 'Most forgiving'
    case 'cleanest':
      return 'Cleanest'
    case 'darkness':
      return 'The darkness you want'
    case 'depth':
      return 'The depth you want'
    case 'colour':
      return 'The colour you want'
  }
}

/** Candidates that have one setting stand on one card: the first, and those that are the same. */
export function cardsOf(candidates: Candidate[]): { first: Candidate; others: Candidate[] }[] {
  const cards: { first: Candidate; others: Candidate[] }[] = []
  for (const one of candidates) {
    const key = JSON.stringify(one.settings)
    const card = cards.find(({ first }) => JSON.stringify(first.settings) === key)
    if (card) card.others.push(one)
    else cards.push({ first: one, others: [] })
  }
  return cards
}

/** So many of 100; never 100 of what is only expected. */
export const inHundred = (share: number) => Math.min(Math.floor(100 * share + 1e-6), 99)

/** An interval of such shares: `94 to 100`; what is all but sure at its upper end may be called that. */
export const intervalInHundred = (low: number, high: number) =>
  `${inHundred(low)} to ${high >= 0.995 ? 100 : inHundred(high)}`

/** Of what comes out in steps the share of fresh sheets that come out as wanted; null of marks that have a shade. */
const shareOf = ({ p_drops_out, p_layer_off }: Candidate['predicted']) => p_drops_out ?? p_layer_off ?? null

/** What to expect, in a line: on a fresh sheet always. */
export function expectedOf(predicted: Candidate['predicted']): string {
  const { lightness, low, high } = predicted
  const share = shareOf(predicted)
  if (share === null)
    return `L* ${Math.round(lightness ?? 0)} on a fresh sheet (${Math.round(low)} to ${Math.round(high)}).`
  const many = `on ${inHundred(share)} of 100 fresh sheets (${intervalInHundred(low, high)})`
  return predicted.p_layer_off == null
    ? `Drops out ${many}.`
    : `The layer is off and what lies below whole ${many}.`
}

/** How far it may be off, in a line. */
export function marginOf({ margin, predicted }: Candidate): string {
  const said = [
    margin.power_down_pct !== null && `${margin.power_down_pct.toFixed(0)} % less power`,
    margin.speed_up_pct !== null && `${margin.speed_up_pct.toFixed(0)} % more speed`,
  ].filter(Boolean)
  if (said.length === 0) return ''
  const upTo = `Up to ${said.join(' or ')}`
  if (shareOf(predicted) === null) return `${upTo} it is hardly changed.`
  return predicted.p_layer_off == null
    ? `${upTo} it still drops out on 9 of 10.`
    : `${upTo} it still comes out.`
}
