import { join } from 'node:path'
import type { CategoryId } from '@lumbrin/core/categories/registry'
import { data } from '../../playwright.config.js'
import { Round } from './rounds.js'
import { expect, test } from './steps.js'

export const BACKUPS = join(data, 'sources/Backup')
export const PHONE = '00008110-0007A5C22E8B401E'
const BRIEF: CategoryId[] = ['photos', 'messages']

/** A kind of source that the demo ships: how it is added, and where what it shows lies without a lock. */
export interface Kind {
  name: string
  /** Null: nothing to compare contents with. */
  backup: string | null
  add(round: Round): Promise<number>
  passes?: string[]
  /** What a job with the categories of the demo's brief reads, where the source holds others. */
  brief?: CategoryId[]
}

/** The whole round of each kind of source: once with what the demo's brief asks for, once with every category. */
export function goRoundsOf(kinds: readonly Kind[]): void {
  for (const { name, backup, add, passes = [], brief = BRIEF } of kinds)
    for (const [scope, categories] of [
      ['what the brief asks for', brief],
      ['every category', []],
    ] as const)
      test(`the whole round of ${name}: ${scope}`, async ({ request, baseURL }) => {
        const round = await Round.begin(request, baseURL ?? '', `Round: ${name}`, [...categories])
        const source = await add(round)
        const state = await round.read(source, categories, passes)
        expect(state).toBe('done')
        const lines = await round.findings()
        expect(lines.length).toBeGreaterThan(0)
        const sums = await round.openAll(lines, backup)
        await round.handOver(lines, sums)
      })
}
