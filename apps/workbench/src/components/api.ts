/** What an endpoint said went wrong; its message is meant for the user. */
export class RequestError extends Error {
  override readonly name = 'RequestError'
}

async function answerOf(response: Response): Promise<unknown> {
  const body = response.status === 204 ? null : await response.json().catch(() => null)
  if (response.ok) return body
  throw new RequestError(body?.error?.message ?? `The server answered with ${response.status}. Try again.`)
}

const unreachable = () => {
  throw new RequestError('The server does not answer. Nothing was changed; start it again and reload this page.')
}

/** Fetches JSON. @throws RequestError with words for the user */
export async function fetchJson<T>(address: string, signal?: AbortSignal): Promise<T> {
  const response = await fetch(address, signal ? { signal } : {}).catch((thrown) =>
    signal?.aborted ? Promise.reject(thrown) : unreachable(),
  )
  return (await answerOf(response)) as T
}

/** Sends JSON. @throws RequestError with words for the user */
export async function sendJson<T>(method: 'POST' | 'PUT', address: string, body: unknown): Promise<T> {
  const response = await fetch(address, {
    method,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  }).catch(unreachable)
  return (await answerOf(response)) as T
}

/** The words of anything thrown. */
export const wordsOf = (thrown: unknown): string => (thrown instanceof Error ? thrown.message : String(thrown))
