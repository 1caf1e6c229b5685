import { execFileSync } from 'node:child_process'
import { existsSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { expect, it } from 'vitest'

const ROOT = join(import.meta.dirname, '../../..')
const { exports } = JSON.parse(readFileSync(join(ROOT, 'packages/core/package.json'), 'utf8'))

it('the core shows the modules that somebody outside of it uses, and no others', () => {
  const used = execFileSync('grep', [
    ...['-rhoE', '@lumbrin/core/[a-zA-Z0-9/_-]+', '--include=*.ts', '--include=*.tsx', '--include=*.astro'],
    ...['--exclude-dir=node_modules', '--exclude-dir=dist', '--exclude-dir=core'],
    ...['apps', 'packages', 'bench', 'tests', 'scripts'].map((folder) => join(ROOT, folder)),
  ])
  const names = [...new Set(used.toString().trim().split('\n'))].map((name) => name.replace('@lumbrin/core', '.'))
  expect(Object.keys(exports).sort()).toEqual(names.sort())
  for (const file of Object.values<string>(exports)) expect(existsSync(join(ROOT, 'packages/core', file))).toBe(true)
})
