import createClient from 'openapi-fetch'
import type { paths } from './schema'
import type { BurnChoice, ErrorAt } from './types'

/** An answer of the server that is not what was asked for: a sentence, and where it belongs. */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly errors: ErrorAt[],
    readonly current: Record<string, unknown> | null,
    readonly yours: Record<string, unknown> | null = null,
    /** What one may choose from, where it fits several things. */
    readonly choices: BurnChoice[] | null = null,
  ) {
    super(detail)
  }

  /** The sentence for each path, such as `axes[1].from`. */
  byPath(): Map<string, string> {
    return new Map(this.errors.map((error) => [error.path, error.detail]))
  }
}

const UNREACHABLE = 'Rezept does not answer. Is the server still running? What you typed is kept here.'

async function asProblem(response: Response): Promise<ProblemError> {
  const fallback = `The server answered ${response.status}.`
  try {
    const body: Partial<ProblemError> & { detail?: string } = await response.json()
    return new ProblemError(
      response.status,
      body.title ?? fallback,
      body.detail ?? fallback,
      body.errors ?? [],
      body.current ?? null,
      body.yours ?? null,
      body.choices ?? null,
    )
  } catch {
    return new ProblemError(response.status, fallback, fallback, [], null)
  }
}

/** Who kept the version that a refused change met, as far as its row says. */
export function whoOf(current: Record<string, unknown> | null): string | undefined {
  const who = current?.changed_by ?? current?.by_name
  return typeof who === 'string' ? who : undefined
}

let formToken = ''

/** Every write carries the token of my session, which a foreign page cannot know. */
export function rememberToken(token: string) {
  formToken = token
}

function signed(request: Request): Request {
  if (request.method === 'GET') return request
  if (formToken) request.headers.set('X-Rezept-Form', formToken)
  // What says nothing is an empty object: the server takes no write that a form of another page could have sent.
  if (request.headers.has('Content-Type') || request.method === 'DELETE') return request
  request.headers.set('Content-Type', 'application/json')
  return new Request(request, { body: '{}' })
}

/** Fetches, or throws why there is no answer. */
async function reach(request: Request): Promise<Response> {
  let response: Response
  try {
    response = await fetch(signed(request))
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ProblemError(0, 'No answer', UNREACHABLE, [], null)
  }
  if (!response.ok) throw await asProblem(response)
  return response
}

/** Every address of the server, bound to the types of what it takes and gives. What is not the answer that was asked
 * for is thrown as a `ProblemError`. A request is on its way when the call returns: a middleware would be awaited, and
 * what the page has to draw first would hold it up. */
export const api = createClient<paths>({ credentials: 'same-origin', fetch: reach })

type Answered<T> = [Exclude<T, undefined>] extends [never] ? undefined : Exclude<T, undefined>

/** What an answer holds: that there is one, `reach` has seen to. */
export async function answer<R extends { data?: unknown }>(asked: Promise<R>): Promise<Answered<R['data']>> {
  return (await asked).data as Answered<R['data']>
}

/** A file as it is, not as JSON; to OpenAPI its bytes are a text. */
export const asItIs = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: () => file,
  headers: { 'Content-Type': mediaType(file) },
})

/** Browsers do not know the kind of every file a phone writes. */
function mediaType(file: File): string {
  if (file.type) return file.type
  return /\.hei[cf]$/i.test(file.name) ? 'image/heic' : 'application/octet-stream'
}
