import { readFile } from 'node:fs/promises'
import { parseArgs } from 'node:util'
import { CATEGORY_IDS, type CategoryId } from '@lumbrin/core/categories/registry'
import { CONDITIONS, type Condition, PASSES, type Pass, USUAL_PASSES } from '@lumbrin/core/categories/types'
import { messageOf } from '@lumbrin/core/io/errors'
import { z } from 'zod'

/** The words of the call make no sense: exit code 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError'
}

export interface Options {
  positionals: string[]
  passwordFile: string | undefined
  /** Undefined: the call did not say. */
  only: CategoryId[] | undefined
  passes: Pass[]
  conditions: Condition[]
  match: string | undefined
  out: string | undefined
  to: string | undefined
  wal: string | undefined
  journal: string | undefined
  thorough: boolean
}

const listOf = <T extends string>(allowed: readonly T[]) =>
  z
    .string()
    .transform((text) => text.split(',').map((part) => part.trim()))
    .pipe(z.array(z.enum(allowed as [T, ...T[]])))

/** Parses a command's words. @throws UsageError */
export function parseOptions(words: string[], allowed: readonly string[]): Options {
  const texts = ['password-file', 'only', 'passes', 'condition', 'match', 'out', 'to', 'wal', 'journal'] as const
  const known = texts.filter((name) => allowed.includes(name))
  const flags = ['thorough'].filter((name) => allowed.includes(name))
  try {
    const { values, positionals } = parseArgs({
      args: words,
      allowPositionals: true,
      options: Object.fromEntries([
        ...known.map((name): [string, { type: 'string' | 'boolean' }] => [name, { type: 'string' }]),
        ...flags.map((name): [string, { type: 'string' | 'boolean' }] => [name, { type: 'boolean' }]),
      ]),
    })
    const text = (name: (typeof texts)[number]) => z.string().optional().parse(values[name])
    return {
      positionals,
      passwordFile: text('password-file'),
      only: listOf(CATEGORY_IDS).optional().parse(text('only')),
      passes: listOf(PASSES).parse(text('passes') ?? USUAL_PASSES.join(',')),
      conditions: listOf(CONDITIONS).parse(text('condition') ?? CONDITIONS.join(',')),
      match: text('match'),
      out: text('out'),
      to: text('to'),
      wal: text('wal'),
      journal: text('journal'),
      thorough: values.thorough === true,
    }
  } catch (thrown) {
    throw new UsageError(thrown instanceof z.ZodError ? z.prettifyError(thrown) : messageOf(thrown), { cause: thrown })
  }
}

/** The password of a source: the first line of the file that was named. @throws UsageError where it cannot be read */
export async function passwordOf({ passwordFile }: Options): Promise<string | undefined> {
  if (passwordFile === undefined) return undefined
  try {
    return (await readFile(passwordFile, 'utf8')).split(/\r?\n/, 1)[0]
  } catch (thrown) {
    throw new UsageError(`The password file "${passwordFile}" cannot be read: ${messageOf(thrown)}.`, { cause: thrown })
  }
}

/** The one thing that a command takes, by its name in the usage. @throws UsageError */
export function requireOne({ positionals }: Options, name: string): string {
  const [one, ...more] = positionals
  if (!one || more.length > 0) throw new UsageError(`Name exactly one ${name}.`)
  return one
}

export const requireSource = (options: Options): string => requireOne(options, 'SOURCE')
