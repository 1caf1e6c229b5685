import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { WARNINGS } from './warnings.js'

it('docs/warnings.md lists every kind of warning, in the same words, and no others', () => {
  const docs = readFileSync(new URL('../../../../docs/warnings.md', import.meta.url), 'utf8')
  const listed = [...docs.matchAll(/^\| `([a-z-]+)` \| (.+?) \| .+ \|$/gm)].map(([, code, words]) => [code, words])
  expect(listed).toEqual(Object.entries(WARNINGS))
})
