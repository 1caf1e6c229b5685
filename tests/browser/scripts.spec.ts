import { readdirSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'

const SCRIPTS = 'apps/workbench/dist/client/_astro'

/** What is loaded before a script of this name can run, itself among it. */
function neededBy(name: string): string[] {
  const needed = readdirSync(SCRIPTS).filter((file) => file.startsWith(`${name}.`))
  // Grows while it is gone through.
  for (const file of needed)
    for (const [, next = ''] of readFileSync(join(SCRIPTS, file), 'utf8').matchAll(
      /(?:import|from)\s*"\.\/([^"]+\.js)"/g,
    ))
      if (!needed.includes(next)) needed.push(next)
  return needed
}

const bytesOf = (files: readonly string[]) => files.reduce((sum, file) => sum + statSync(join(SCRIPTS, file)).size, 0)

test('findings are shown before the scripts of menus, windows and charts have come', () => {
  expect(bytesOf(neededBy('FindingsView'))).toBeLessThan(260_000)
})

test('no page brings the schemas that the server checks with', () => {
  const files = readdirSync(SCRIPTS).filter((file) => file.endsWith('.js'))
  expect(files.length).toBeGreaterThan(20)
  expect(files.filter((file) => readFileSync(join(SCRIPTS, file), 'utf8').includes('ZodError'))).toEqual([])
})
