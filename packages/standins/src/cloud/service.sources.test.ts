import { readFileSync } from 'node:fs'
import { describe, expect, inject, it } from 'vitest'
import { z } from 'zod'
import { startCloud } from '../../../../tests/setup/cloud.js'
import { DEMO_ACCOUNT } from './demo.js'

type Schema = Parameters<typeof z.fromJSONSchema>[0]
interface Described {
  paths: Record<
    string,
    Record<string, { responses: Record<string, { content?: Record<string, { schema?: object }> }> }>
  >
  components: { schemas: Record<string, object> }
}
const described: Described = JSON.parse(readFileSync('docs/cloud-service.openapi.json', 'utf8'))

/** The schema of an answer, with what it refers to put into its place (OpenAPI 3.1, JSON Schema 2020-12). */
function schemaOf(path: string, method: string, status: number): z.ZodType {
  const { schema } = described.paths[path]?.[method]?.responses[status]?.content?.['application/json'] ?? {}
  const definitions = JSON.parse(
    JSON.stringify(described.components.schemas).replaceAll('#/components/schemas/', '#/$defs/'),
  )
  const own = JSON.parse(JSON.stringify(schema ?? false).replaceAll('#/components/schemas/', '#/$defs/'))
  return z.fromJSONSchema({ ...own, $defs: definitions } as Schema)
}

describe('the stand-in cloud service', () => {
  it('answers as its published description says', async () => {
    const service = await startCloud(inject('demoFolder'))
    const ask = async (path: string, as: string, init: RequestInit & { status?: number } = {}) => {
      const answer = await fetch(`${service.address}/v1${path}`, init)
      expect(answer.status, path).toBe(init.status ?? 200)
      const body = await answer.json()
      const checked = schemaOf(as, (init.method ?? 'GET').toLowerCase(), answer.status).safeParse(body)
      expect(checked.error, path).toBeUndefined()
      return body
    }
    const post = (body: object, status = 200) => ({ method: 'POST', body: JSON.stringify(body), status })
    const { name, password, code } = DEMO_ACCOUNT
    await ask('/sessions', '/sessions', post({ account: name, password: 'no' }, 401))
    const { challenge } = await ask('/sessions', '/sessions', post({ account: name, password }, 201))
    const codes = '/sessions/{challenge}/code'
    await ask(`/sessions/${challenge}/code`, codes, post({ code: '1' }, 401))
    const { token, refreshToken } = await ask(`/sessions/${challenge}/code`, codes, post({ code }))
    await ask(`/sessions/${challenge}/code`, codes, post({ code }, 410))
    const get = { headers: { authorization: `Bearer ${token}` } }
    await ask('/account', '/account', { status: 401 })
    await ask('/account', '/account', get)
    const { devices } = await ask('/devices', '/devices', get)
    const files = `/snapshots/${devices[0].snapshots[0].id}/files`
    const first = await ask(files, '/snapshots/{snapshot}/files', get)
    await ask(`${files}?cursor=${first.next}`, '/snapshots/{snapshot}/files', get)
    await ask('/snapshots/none/files', '/snapshots/{snapshot}/files', { ...get, status: 404 })
    await ask('/library/photos', '/library/photos', get)
    await ask('/library/deleted-files', '/library/deleted-files', get)
    const { archives } = await ask('/library/archives', '/library/archives', get)
    for (const { id } of archives) await ask(`/library/archives/${id}`, '/library/archives/{archive}', get)
    service.faults.throttleEvery = 1
    await ask('/account', '/account', { ...get, status: 429 })
    service.faults.throttleEvery = 0
    await ask('/tokens', '/tokens', post({ refreshToken }))
    await ask('/account', '/account', { ...get, status: 401 })
  })
})
