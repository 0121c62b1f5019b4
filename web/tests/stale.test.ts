import { QueryClient } from '@tanstack/react-query'
import { describe, expect, it } from 'vitest'
import { lookUp } from '../src/api/stale'

const trial = (id: number) => ({ subject: 'trial' as const, subject_id: id })

describe('what a change makes out of date', () => {
  const begun = () => {
    const client = new QueryClient()
    client.setQueryData(['trial', 4, 'latest', 'own'], { burn: { id: 9 }, proofs: [{ trial_id: 7 }] })
    client.setQueryData(['trial', 5, 'latest', 'own'], { burn: { id: 10 }, proofs: [] })
    client.setQueryData(['finding', 9, undefined], {})
    client.setQueryData(['finding', 10, undefined], {})
    client.setQueryData(['recipe', 3], {})
    const stale = () =>
      client
        .getQueryCache()
        .findAll()
        .filter(({ state }) => state.isInvalidated)
        .map(({ queryKey }) => queryKey.slice(0, 2).join(' '))
    return { client, stale }
  }

  it('is the trial itself', () => {
    const { client, stale } = begun()
    lookUp(client, [trial(5)])
    expect(stale()).toEqual(['trial 5'])
  })

  it('and what it proves something of, with what that means', () => {
    const { client, stale } = begun()
    lookUp(client, [trial(7)])
    expect(stale()).toEqual(['trial 4', 'finding 9'])
  })

  it('is looked up once, however many changes there are', () => {
    const { client } = begun()
    let asked = 0
    client.getQueryCache().subscribe((event) => {
      if (event.type === 'updated' && event.action.type === 'invalidate') asked += 1
    })
    lookUp(client, [trial(5), trial(5), trial(5)])
    expect(asked).toBe(1)
  })
})
