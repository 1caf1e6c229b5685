import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Warning } from '@lumbrin/core/io/errors'
import type { BackupTruth, DemoTruth } from '@lumbrin/standins/demo/build'
import { onTestFinished } from 'vitest'

/** A folder that goes when the test ends. */
export function scratchFolder(): string {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-case-'))
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }))
  return folder
}

/** One of the demo's backups, and what its builder wrote. */
export function demoBackup(
  demoFolder: string,
  which: keyof DemoTruth = 'plain',
): { folder: string; truth: BackupTruth } {
  const truths: DemoTruth = JSON.parse(readFileSync(join(demoFolder, 'truth.json'), 'utf8'))
  return { folder: join(demoFolder, 'Backup', truths[which].folder), truth: truths[which] }
}

/** Collects warnings instead of showing them. */
export function warnings(): { list: Warning[]; report: (warning: Warning) => void } {
  const list: Warning[] = []
  return { list, report: (warning) => void list.push(warning) }
}

/** Output of a reference tool. */
export const tool = (command: string, ...words: string[]): string => execFileSync(command, words, { encoding: 'utf8' })

/** Everything that an asynchronous sequence gives. */
export async function all<T>(sequence: AsyncIterable<T>): Promise<T[]> {
  const items: T[] = []
  for await (const item of sequence) items.push(item)
  return items
}
