import { useQueryClient } from '@tanstack/react-query'
import { useEffect, useRef } from 'react'
import { liveKey, lookUpEnded } from './hooks'
import { lookUp } from './stale'
import type { Change, LiveRun } from './types'
import { hasEndedSince } from './runs'

type Event = Pick<Change, 'id' | 'subject' | 'subject_id' | 'by_member'>

/** How long my own doings must rest until they are looked up, for the sake of my other screens. */
const OWN_REST_MS = 1000
/** Where there is no place to follow from, one is asked for again after so long. */
const NO_PLACE_MS = 30_000

/**
 * Follows what others do, while the page is looked at. What I do myself here is up to date already; what I do on
 * my other screens (a phone beside the machine) is looked up once I rest.
 */
export function useLive(latest: number, me: number) {
  const client = useQueryClient()
  const since = useRef(latest)
  useEffect(() => {
    let source: EventSource | null = null
    let own: Event[] = []
    let rest: ReturnType<typeof setTimeout> | undefined
    let again: ReturnType<typeof setTimeout> | undefined
    const lookUpMine = () => {
      void lookUp(client, own)
      own = []
    }
    const open = () => {
      source ??= new EventSource(`/api/changes/stream?since=${since.current}`)
      source.onmessage = (message: MessageEvent<string>) => {
        const event: Event = JSON.parse(message.data)
        since.current = Math.max(since.current, event.id)
        if (event.by_member !== me) return void lookUp(client, [event])
        own.push(event)
        clearTimeout(rest)
        rest = setTimeout(lookUpMine, OWN_REST_MS)
      }
      // A lost connection the browser mends itself; an answer that is none ends it.
      source.onerror = () => {
        if (source?.readyState !== EventSource.CLOSED) return
        close()
        again = setTimeout(open, NO_PLACE_MS)
      }
      source.addEventListener('live', (message: MessageEvent<string>) => {
        const run: LiveRun = JSON.parse(message.data)
        const before = client.getQueryData<LiveRun | null>(liveKey(run.trial_id))
        client.setQueryData(liveKey(run.trial_id), run)
        // What became of it is in the records now, and photographs may follow it.
        if (hasEndedSince(before, run)) lookUpEnded(client, run.trial_id)
      })
    }
    const close = () => {
      clearTimeout(again)
      source?.close()
      source = null
    }
    // A hidden page gives its place to others and catches up when it is looked at again.
    const look = () => (document.hidden ? close() : open())
    look()
    document.addEventListener('visibilitychange', look)
    return () => {
      document.removeEventListener('visibilitychange', look)
      clearTimeout(rest)
      close()
    }
  }, [client, me])
}
