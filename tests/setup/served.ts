import { onTestFinished } from 'vitest'
import { partsOf } from '../../apps/workbench/src/api/contract.js'
import type { AnswerGiven, Name, NamesOf } from '../../apps/workbench/src/api/contracts.js'

type Answer = object | null | (() => object | null)
/** Endpoints by their contracts, with what they answer: a value, or what makes one. */
export type Answers = { [N in NamesOf<'json'>]?: AnswerGiven<N> | (() => AnswerGiven<N>) } & {
  [N in NamesOf<'nothing'>]?: null | (() => null)
}

/** One request that a test's server was sent. */
export interface Asked {
  name: Name
  address: string
  body: unknown
}

/** Answers `fetch` until the test ends: as it is told to, and with an error of the API for all else. Returns the requests, in order. */
export function serve(answers: Answers): Asked[] {
  const asked: Asked[] = []
  const real = globalThis.fetch
  onTestFinished(() => {
    globalThis.fetch = real
  })
  globalThis.fetch = async (input, init) => {
    const address = String(input)
    const method = init?.method ?? 'GET'
    const [name, answer] = Object.entries(answers).find(([one]) => matches(one, method, address)) ?? []
    if (name === undefined)
      return Response.json({ error: { code: 'not-found', message: `No ${method} ${address}` } }, { status: 404 })
    asked.push({ name: name as Name, address, body: typeof init?.body === 'string' ? JSON.parse(init.body) : null })
    try {
      const made = typeof answer === 'function' ? answer() : (answer as Answer)
      return made === null ? new Response(null, { status: 204 }) : Response.json(made)
    } catch (thrown) {
      return Response.json({ error: { code: 'conflict', message: (thrown as Error).message } }, { status: 409 })
    }
  }
  return asked
}

function matches(name: string, method: string, address: string): boolean {
  const { method: wanted, path } = partsOf(name)
  const pattern = path.replace(/\{\w+\}/g, '[^/?]+')
  return wanted === method && new RegExp(`^${pattern}(\\?|$)`).test(address)
}
