import createClient from 'openapi-fetch'
import type { components, paths } from './schema.gen'

type Schemas = components['schemas']
/** A type of the contract by its name. */
export type Of<N extends keyof Schemas> = Schemas[N]

/** What the server says went wrong: a code with arguments; the words are ours. */
export class ProblemError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    readonly args: Record<string, string>,
    readonly field: string,
    readonly sentence: string,
  ) {
    super(code)
  }
}

// What makes something carries a key: where the answer is lost on the way it is
// asked for once more with the same key, and done once.
const keyed = 'Idempotency-Key'
async function send(request: Request): Promise<Response> {
  const again = request.headers.has(keyed) ? request.clone() : null
  try {
    return await fetch(request)
  } catch (e) {
    if (!again) throw e
    return fetch(again)
  }
}

export const api = createClient<paths>({ baseUrl: '/api', fetch: send })

api.use({
  onRequest({ request }) {
    if (request.method === 'POST') request.headers.set(keyed, crypto.randomUUID())
    return request
  },
  async onResponse({ request, response }) {
    // Two who wrote one text: both texts are in the answer, which is looked at where it was asked for.
    const both = response.status === 409 && request.url.endsWith('/text')
    if (response.ok || both || response.status === 304) return
    throw await problemOf(response)
  },
  onError() {
    return new ProblemError(0, 'offline', {}, '', '')
  },
})

/** Reads a refused answer, whatever it is. */
export async function problemOf(response: Response): Promise<ProblemError> {
  const p = (await response.json().catch(() => ({}))) as Partial<Of<'Problem'>>
  return new ProblemError(response.status, p.code ?? 'internal', p.args ?? {}, p.field ?? '', p.message ?? '')
}

// While names are covered, answers are shown with their covers, and nothing is
// sent: what a person sees then is not what it is called.
let dress: ((value: unknown) => unknown) | null = null
export function coverAnswers(how: (value: unknown) => unknown) {
  dress = how
}
const asks = /\/api\/(session|choose|render|classes\/[^/]+\/(roster\/teams|messages\/look))$/
api.use({
  onRequest({ request }) {
    if (dress && request.method !== 'GET' && !asks.test(new URL(request.url).pathname))
      throw new ProblemError(0, 'covered', {}, '', '')
  },
})

/** The data of an answer that came through. */
export async function data<T>(answer: Promise<{ data?: T; response: Response }>): Promise<T> {
  const { data: d } = await answer
  return (dress ? dress(d) : d) as T
}

/** Sends a file with its progress from 0 to 1. */
export function sendFile<T>(url: string, file: File, key: string, onProgress?: (part: number) => void): Promise<T> {
  return new Promise((resolve, reject) => {
    if (dress) return reject(new ProblemError(0, 'covered', {}, '', ''))
    const form = new FormData()
    form.append('key', key)
    form.append('file', file)
    const r = new XMLHttpRequest()
    r.open('POST', `/api${url}`)
    r.setRequestHeader(keyed, key)
    r.upload.onprogress = (e) => e.lengthComputable && onProgress?.(e.loaded / e.total)
    r.onerror = () => reject(new ProblemError(0, 'offline', {}, '', ''))
    r.onload = async () => {
      const response = new Response(r.responseText || null, { status: r.status || 500 })
      if (response.ok) resolve((await response.json()) as T)
      else reject(await problemOf(response))
    }
    r.send(form)
  })
}
