import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { renderHook } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter } from 'react-router'
import { vi } from 'vitest'
import type { Inventory, Me } from '../src/api/types'
import { ShopContext } from '../src/shared/ShopContext'

/** What one request asked for, and how the server of a test answers it. */
export interface Asked {
  method: string
  path: string
  body: unknown
}
type Answer = { status?: number; body: unknown } | Promise<{ status?: number; body: unknown }>

/** A server that answers as told and remembers what it was asked. */
export function served(answer: (asked: Asked) => Answer): Asked[] {
  const asked: Asked[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const text = await request.clone().text()
    const one = {
      method: request.method,
      path: new URL(request.url).pathname,
      body: text ? (JSON.parse(text) as unknown) : null,
    }
    asked.push(one)
    const { status = 200, body } = await answer(one)
    return new Response(JSON.stringify(body), { status, headers: { 'Content-Type': 'application/json' } })
  })
  return asked
}

/** A promise that is kept when the test says so. */
export function later<T>() {
  let keep: (value: T) => void = () => undefined
  const promise = new Promise<T>((resolve) => (keep = resolve))
  return { promise, keep }
}

/** Mounts a hook within a shop; `client` holds what was fetched before. */
export function mounted<Props, Result>(
  hook: (props: Props) => Result,
  initialProps: Props,
  { inventory = {}, at = '/' }: { inventory?: Partial<Inventory>; at?: string } = {},
) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const here = {
    inventory: inventory as Inventory,
    me: { id: 1, name: 'Moss', role: 'member', may_write: true } as Me,
    units: {},
    setUnit: () => undefined,
  }
  const wrapper = ({ children }: { children: ReactNode }) => (
    <QueryClientProvider client={client}>
      <MemoryRouter initialEntries={[at]}>
        <ShopContext value={here}>{children}</ShopContext>
      </MemoryRouter>
    </QueryClientProvider>
  )
  return { client, ...renderHook(hook, { initialProps, wrapper }) }
}
