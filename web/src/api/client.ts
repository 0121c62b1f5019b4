import type { ErrorAt } from './types'

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
    readonly choices: Record<string, unknown>[] | null = null,
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
    const body = (await response.json()) as Partial<ProblemError> & { detail?: string }
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

let formToken = ''

/** Every write carries the token of my session, which a foreign page cannot know. */
export function rememberToken(token: string) {
  formToken = token
}

function headers(type?: string): Record<string, string> {
  return { ...(type && { 'Content-Type': type }), ...(formToken && { 'X-Rezept-Form': formToken }) }
}

async function send<T>(method: string, url: string, init: RequestInit): Promise<T> {
  let response: Response
  try {
    response = await fetch(url, { method, credentials: 'same-origin', ...init })
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new ProblemError(0, 'No answer', UNREACHABLE, [], null)
  }
  if (!response.ok) throw await asProblem(response)
  return (response.status === 204 ? undefined : await response.json()) as T
}

function withBody(body: unknown, more: RequestInit = {}): RequestInit {
  return { body: JSON.stringify(body), headers: headers('application/json'), ...more }
}

export const get = <T>(url: string, signal?: AbortSignal) => send<T>('GET', url, { signal })
export const post = <T>(url: string, body: unknown, signal?: AbortSignal) =>
  send<T>('POST', url, withBody(body, { signal }))
/** `lasting` lets the request finish even when the page is left meanwhile. */
export const put = <T>(url: string, body: unknown, lasting = false) =>
  send<T>('PUT', url, withBody(body, { keepalive: lasting }))
export const postFile = <T>(url: string, file: File) =>
  send<T>('POST', url, { body: file, headers: headers(mediaType(file)) })
export const remove = (url: string) => send<undefined>('DELETE', url, { headers: headers() })

/** Browsers do not know the kind of every file a phone writes. */
function mediaType(file: File): string {
  if (file.type) return file.type
  return /\.hei[cf]$/i.test(file.name) ? 'image/heic' : 'application/octet-stream'
}
