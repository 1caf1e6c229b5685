import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { partsOf } from './contract.js'
import { CONTRACTS } from './contracts.js'
import { openApiDocument } from './openapi.js'
import { PARAMETERS } from './parameters.js'

const PAGES = join(import.meta.dirname, '../pages/api')
/** Where processes of our own speak to each other. */
const INTERNAL = '/api/internal/'
/** Answered before any page: docs/architecture.md, the door. */
const AT_THE_DOOR = ['PUT /api/session', 'DELETE /api/session']

const files = readdirSync(PAGES, { recursive: true, encoding: 'utf8' }).filter((name) => name.endsWith('.ts'))

/** The names under which a file of the pages answers, by Astro's rules for files. */
function namesIn(file: string): string[] {
  const path = `/api/${file}`.replace(/(\/index)?\.ts$/, '').replace(/\[(\w+)\]/g, '{$1}')
  const text = readFileSync(join(PAGES, file), 'utf8')
  return [...text.matchAll(/^export const (GET|POST|PUT|DELETE)\b/gm)].map(([, method]) => `${method} ${path}`)
}

const endpoints = files.flatMap(namesIn).filter((name) => !name.includes(INTERNAL))

describe('contracts', () => {
  it('there is one for each endpoint, and an endpoint for each', () => {
    expect([...endpoints, ...AT_THE_DOOR].sort()).toEqual(Object.keys(CONTRACTS).sort())
  })

  it.each(files.filter((file) => !`/api/${file}`.includes(INTERNAL)))(
    '%s fulfils the contracts of its own place',
    (file) => {
      const fulfilled = [...readFileSync(join(PAGES, file), 'utf8').matchAll(/fulfil\(\s*'([^']+)'/g)].map(
        ([, name]) => name,
      )
      expect(fulfilled.sort()).toEqual(namesIn(file).sort())
    },
  )

  it('name parameters that have a meaning', () => {
    for (const name of Object.keys(CONTRACTS))
      for (const [, parameter = ''] of partsOf(name).path.matchAll(/\{(\w+)\}/g))
        expect(Object.keys(PARAMETERS), name).toContain(parameter)
  })

  it('stand in docs/api.openapi.json as they are: `npm run openapi` writes it', () => {
    const written = readFileSync(join(import.meta.dirname, '../../../../docs/api.openapi.json'), 'utf8')
    expect(JSON.parse(written)).toEqual(JSON.parse(JSON.stringify(openApiDocument())))
  })
})

describe('parameters of a path', () => {
  it.each(['0', '-1', '1.5', '01', '1e3', '', ' 1', '9999999999999999', 'constructor', '__proto__'])(
    'no id is %j',
    (text) => {
      for (const name of ['job', 'source', 'read', 'finding', 'sighting', 'handover', 'return', 'page'] as const)
        expect(PARAMETERS[name].safeParse(text).success).toBe(false)
    },
  )

  it('an id is a number', () => {
    expect(PARAMETERS.job.parse('17')).toBe(17)
  })
})
