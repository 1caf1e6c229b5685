/** What an endpoint said went wrong; its message is meant for the user. */
export class RequestError extends Error {
  override readonly name = 'RequestError'
  constructor(
    message: string,
    /** The kind of what went wrong, as the server names it. */
    readonly code = '',
  ) {
    super(message)
  }
}

async function answerOf(response: Response, signal?: AbortSignal): Promise<unknown> {
  const text = await response.text().catch(() => undefined)
  // What was given up is not handed on, and an answer that broke off is no empty one.
  signal?.throwIfAborted()
  const body = bodyOf(text)
  if (!response.ok)
    throw new RequestError(
      body?.error?.message ?? `The server answered with ${response.status}. Try again.`,
      body?.error?.code,
    )
  if (body === undefined)
    throw new RequestError('The answer of the server broke off. Reload this page to see how things stand.')
  return body
}

/** What an answer says; null where it says nothing. Undefined: it is not whole. */
// biome-ignore lint/suspicious/noExplicitAny: what an endpoint answers is known to who asks it
function bodyOf(text: string | undefined): any {
  if (text === '') return null
  try {
    return text === undefined ? undefined : JSON.parse(text)
  } catch {
    return undefined
  }
}

const unreachable = () => {
  throw new RequestError('The server does not answer. Nothing was changed; start it again and reload this page.')
}

/** Fetches JSON. @throws RequestError with words for the user; the signal's reason once it is given up */
export async function fetchJson<T>(address: string, signal?: AbortSignal): Promise<T> {
  const response = await fetch(address, signal ? { signal } : {}).catch((thrown) =>
    signal?.aborted ? Promise.reject(thrown) : unreachable(),
  )
  return (await answerOf(response, signal)) as T
}

/** Fetches JSON Lines and hands each on as it comes. @throws RequestError with words for the user */
export async function fetchLines<T>(address: string, signal: AbortSignal, take: (line: T) => void): Promise<void> {
  const response = await fetch(address, { signal }).catch(unreachable)
  if (!response.ok || !response.body) return void (await answerOf(response))
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader()
  let rest = ''
  for (let next = await reader.read(); !next.done; next = await reader.read()) {
    const parts = (rest + next.value).split('\n')
    rest = parts.pop() as string
    for (const part of parts) take(JSON.parse(part) as T)
  }
}

/** Sends JSON. @throws RequestError with words for the user */
export async function sendJson<T>(
  method: 'POST' | 'PUT' | 'DELETE',
  address: string,
  body: unknown,
  headers: Record<string, string> = {},
): Promise<T> {
  const response = await fetch(address, {
    method,
    headers: { 'content-type': 'application/json', ...headers },
    body: JSON.stringify(body),
  }).catch(unreachable)
  return (await answerOf(response)) as T
}

/** The words of anything thrown. */
export const wordsOf = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown))
