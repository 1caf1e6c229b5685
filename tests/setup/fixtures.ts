import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { SourceEntry, SourceTree } from '@lumbrin/core/backup/types'
import type { Sighting } from '@lumbrin/core/categories/types'
import { FormatError, type Warning } from '@lumbrin/core/io/errors'
import { type ByteSource, MemorySource } from '@lumbrin/core/io/source'
import type { BackupTruth, DemoTruth } from '@lumbrin/standins/demo/build'
import sqlite from 'node-sqlite3-wasm'
import { onTestFinished } from 'vitest'

/** Takes what is to be done when something ends: a test, or all tests of a file. */
export type AtEnd = (work: () => void | Promise<void>) => void

/** A temporary folder, deleted when the test ends, or when `atEnd` says. */
export function scratchFolder(atEnd: AtEnd = onTestFinished): string {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-case-'))
  atEnd(() => rmSync(folder, { recursive: true, force: true }))
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

/**
 * Runs SQL in SQLite's own shell: the library of the tests is built without UTF-16, and makes UTF-8 of it. `last` is a
 * command that the system runs before the database is closed.
 */
export function makeByShell(file: string, encoding: 'UTF-16le' | 'UTF-16be', sql: string, last = 'true'): void {
  const input = `PRAGMA encoding='${encoding}';\n${sql}\n.shell ${last}\n`
  execFileSync('sqlite3', ['-bail', file], { input, stdio: ['pipe', 'ignore', 'inherit'] })
}

/** Everything that an asynchronous sequence gives. */
export async function all<T>(sequence: AsyncIterable<T>): Promise<T[]> {
  const items: T[] = []
  for await (const item of sequence) items.push(item)
  return items
}

/** The bytes of a database that ordinary SQL makes in an ordinary SQLite. */
export function databaseOf(sql: string): Buffer {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-sql-'))
  const file = join(folder, 'made.db')
  const database = new sqlite.Database(file)
  database.exec(`PRAGMA secure_delete=OFF; ${sql}`)
  database.close()
  const bytes = readFileSync(file)
  rmSync(folder, { recursive: true })
  return bytes
}

/** A source that holds these files, by domain and path. */
export function madeTree(
  files: [domain: string, path: string, bytes: Uint8Array][],
  info: Partial<SourceTree['info']> = {},
): SourceTree {
  const list = files.map(
    ([domain, path, bytes]): SourceEntry => ({
      domain,
      path,
      kind: 'file',
      size: bytes.length,
      modifiedAt: null,
      createdAt: null,
      id: `${domain}/${path}`,
      target: null,
      key: null,
    }),
  )
  const bytesOf = new Map(files.map(([domain, path, bytes]) => [`${domain}/${path}`, bytes]))
  return {
    info: {
      kind: 'computer-backup',
      layout: 'modern',
      path: '/nowhere',
      deviceName: null,
      productType: null,
      osVersion: '17.0',
      uniqueId: null,
      serialNumber: null,
      takenAt: new Date('2026-11-14T00:00:00Z'),
      encrypted: false,
      installedApps: [],
      complete: true,
      ...info,
    },
    fileCount: list.length,
    find: (domain, path) => list.find((entry) => entry.domain === domain && entry.path === path),
    entries: () => list,
    strays: async () => [],
    open: async ({ id }) => {
      const bytes = bytesOf.get(id)
      return bytes && new MemorySource(bytes)
    },
    contentSize: async ({ size }) => size ?? 0,
    storedBytes: async ({ size }) => size ?? 0,
    storedPath: async () => undefined,
    opens: () => true,
    unwrap: () => undefined,
    close: async () => {},
  }
}

/** A picture as a source shows it; its content lies at its number. */
export const picture = (n: number): Sighting => ({
  category: 'photos',
  condition: 'live',
  when: `2026-05-${String(n).padStart(2, '0')}T10:00:00.000Z`,
  title: `IMG_${n}.JPG`,
  text: null,
  fields: { fileName: `IMG_${n}.JPG` },
  content: { name: `IMG_${n}.JPG`, bytes: 20, mime: 'image/jpeg', sha256: null, domain: 'd', path: `${n}` },
  origin: { domain: 'd', path: `${n}`, table: null, rowid: n, place: 'live', page: null, offset: null },
  missing: [],
  confidence: 1,
})

/** Bytes on a disk with a bad sector, from `start` to `end`: whatever touches them fails. */
export function withBadSector(bytes: Uint8Array, start: number, end: number): ByteSource {
  const whole = new MemorySource(bytes)
  const readSync = (from: number, until: number) => {
    if (from < end && until > start) throw new FormatError('unreadable', start, 'the system does not give it out: EIO')
    return whole.readSync(from, until)
  }
  return { size: bytes.length, readSync, read: async (from, until) => readSync(from, until), close: async () => {} }
}
