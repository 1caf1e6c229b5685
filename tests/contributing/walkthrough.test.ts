import { spawnSync } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, readFileSync, symlinkSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { expect, it } from 'vitest'
import { scratchFolder } from '../setup/fixtures.js'

const ROOT = join(import.meta.dirname, '../..')
const COPIED = ['packages', 'docs', 'tests/setup', 'package.json', 'tsconfig.json', 'vitest.config.ts']

/** What is new, with what it is made of; the whole tree is checked elsewhere. */
const TYPED = [
  'packages/core/src/categories',
  'packages/core/src/export',
  'packages/core/src/**/*.d.ts',
  'tests/setup/demo.ts',
]

/** A tree of its own, in which the walk-throughs are followed. */
function copyOfTree(): string {
  const folder = scratchFolder()
  for (const path of COPIED)
    cpSync(join(ROOT, path), join(folder, path), {
      recursive: true,
      filter: (from) => !/(^|\/)(node_modules|dist)(\/|$)/.test(from.slice(ROOT.length)),
    })
  linkPackages(folder)
  return folder
}

/** Packages from npm as they are; those of the workspace as they are in the copy. */
function linkPackages(folder: string): void {
  for (const place of ['', 'packages/core', 'packages/standins', 'packages/cli']) {
    const packages = join(ROOT, place, 'node_modules')
    if (existsSync(packages))
      cpSync(packages, join(folder, place, 'node_modules'), { recursive: true, filter: isShallow })
  }
  function isShallow(from: string, to: string): boolean {
    const inside = from.slice(from.lastIndexOf('node_modules') + 'node_modules/'.length)
    if (inside === '' || inside === '@lumbrin') return true
    if (inside.startsWith('@lumbrin/')) symlinkSync(join(folder, 'packages', inside.slice('@lumbrin/'.length)), to)
    else symlinkSync(from, to)
    return false
  }
}

/** Does what CONTRIBUTING.md says, from its top to its bottom: whole files, and changes of files that are there. */
function follow(folder: string): string[] {
  const made: string[] = []
  const text = readFileSync(join(ROOT, 'CONTRIBUTING.md'), 'utf8')
  for (const [, path, kind, block = ''] of text.matchAll(/(?:In `([^`]+)`:\n\n)?```(ts|json|diff)\n([\s\S]*?)```/g))
    if (kind === 'diff') change(folder, block)
    else if (path) {
      mkdirSync(dirname(join(folder, path)), { recursive: true })
      writeFileSync(join(folder, path), block)
      made.push(path)
    }
  return made
}

/** A diff without line numbers: each part stands once in its file. */
function change(folder: string, diff: string): void {
  for (const [, path = '', parts = ''] of diff.matchAll(/^\+\+\+ b\/(.+)\n((?:(?!--- ).*\n)*)/gm)) {
    const file = join(folder, path)
    let text = readFileSync(file, 'utf8')
    for (const part of parts.split('@@\n').filter(Boolean)) {
      const lines = part.trimEnd().split('\n')
      const side = (left: string) =>
        lines
          .filter((line) => line[0] !== left)
          .map((line) => `${line.slice(1)}\n`)
          .join('')
      expect(text.split(side('+')).length, `${path}: ${side('+')}`).toBe(2)
      text = text.replace(side('+'), () => side('-'))
    }
    writeFileSync(file, text)
  }
}

/** All that a tool says. */
function run(folder: string, tool: string, ...words: string[]): string {
  const command = [join(ROOT, 'node_modules', tool), ...words]
  const { stdout, stderr } = spawnSync(process.execPath, command, { cwd: folder, encoding: 'utf8' })
  return stdout + stderr
}

it('the walk-throughs of CONTRIBUTING.md give a category, a format and a profile that work', () => {
  const folder = copyOfTree()
  expect(follow(folder)).toHaveLength(6)
  writeFileSync(
    join(folder, 'tsconfig.walk.json'),
    JSON.stringify({
      extends: './tsconfig.json',
      include: TYPED,
    }),
  )
  expect(run(folder, 'typescript/bin/tsc', '-p', 'tsconfig.walk.json')).toBe('')
  const tests = ['podcasts.test.ts', 'registry.test.ts', 'formats.test.ts']
  const said = run(folder, 'vitest/vitest.mjs', 'run', '--project', 'unit', ...tests)
  expect(said).toMatch(/Test Files\s.*3 passed/)
})
