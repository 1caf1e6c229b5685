import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { FormatError } from '@lumbrin/core/io/errors'
import { MemorySource } from '@lumbrin/core/io/source'
import { openDatabase } from '@lumbrin/core/sqlite/open'
import { rebuildRows } from '@lumbrin/core/sqlite/residue/rebuild'
import { mutate } from '@lumbrin/standins/mutate'
import { Random } from '@lumbrin/standins/random'
import { makeCase } from '../../tests/residue/generate.js'

const SLOW_MS = 10_000

/** Feeds the engine files with bytes flipped, cut and spliced: `npm run bench -- mutate [count] [first seed]`. */
export async function benchMutate(words: string[]): Promise<void> {
  const [count = 20_000, first = 1] = words.map(Number)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-mutate-'))
  const originals = smallCases(folder)
  let refused = 0
  let slowest = { seed: 0, ms: 0 }
  const failed: string[] = []
  for (let seed = first; seed < first + count; seed++) {
    const started = performance.now()
    const random = new Random(seed)
    const made = originals[seed % originals.length] as { main: Buffer; wal: Buffer | undefined }
    const damaged = { main: mutate(made.main, random), wal: made.wal && mutate(made.wal, random) }
    try {
      readAll(damaged)
    } catch (thrown) {
      if (thrown instanceof FormatError) refused++
      else failed.push(`seed ${seed}: ${thrown}`)
    }
    const ms = performance.now() - started
    if (ms > slowest.ms) slowest = { seed, ms }
  }
  rmSync(folder, { recursive: true, force: true })
  const memory = Math.round(process.memoryUsage().rss / 1e6)
  console.log(
    `${count} mutated files, seeds ${first} to ${first + count - 1}: ${failed.length} failed, ${refused} refused with a clear error`,
  )
  console.log(`slowest: seed ${slowest.seed}, ${Math.round(slowest.ms)} ms; memory at the end ${memory} MB`)
  for (const line of failed.slice(0, 20)) console.log(line)
  if (failed.length > 0 || slowest.ms > SLOW_MS) process.exitCode = 1
}

function readAll({ main, wal }: { main: Buffer; wal: Buffer | undefined }): void {
  const opened = openDatabase({ main: new MemorySource(main), wal: wal && new MemorySource(wal) }, () => {})
  for (const _ of rebuildRows(opened));
  for (const table of opened.database.tables.keys()) for (const _ of opened.database.rows(table));
}

/** Files of every page size and journal mode that stay small, so that many can be read. */
function smallCases(folder: string): { main: Buffer; wal: Buffer | undefined }[] {
  const cases: { main: Buffer; wal: Buffer | undefined }[] = []
  for (let seed = 1; cases.length < 12; seed++) {
    const { files } = makeCase(seed, folder)
    const main = readFileSync(files.main)
    const wal = files.wal ? readFileSync(files.wal) : undefined
    if (main.length + (wal?.length ?? 0) < 160_000) cases.push({ main, wal })
  }
  return cases
}
