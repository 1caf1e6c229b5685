import { readFileSync, writeFileSync } from 'node:fs'
import { cp } from 'node:fs/promises'
import { join } from 'node:path'
import { mutate } from '@lumbrin/standins/mutate'
import { Random } from '@lumbrin/standins/random'
import { beforeAll, describe, expect, inject, it, vi } from 'vitest'
import { demoBackup, scratchFolder } from '../../../../tests/setup/fixtures.js'
import { MemorySource } from '../io/source.js'
import { parsePlistDict } from '../plist/read.js'
import { parseKeybag } from './keybag.js'
import { readLegacyManifest } from './legacy.js'
import { readManifest } from './manifest.js'
import { openBackup } from './open.js'

const COPIES = 1000
const file = (which: 'plain' | 'encrypted' | 'legacy', name: string) =>
  readFileSync(join(demoBackup(inject('demoFolder'), which).folder, name))
const keybag = () => parsePlistDict(file('encrypted', 'Manifest.plist')).BackupKeyBag as Uint8Array

/** Every damaged copy is read as far as it goes, or refused in words; seeds tell which one was neither. */
async function readAll(bytes: Uint8Array, read: (damaged: Buffer) => unknown, copies = COPIES): Promise<void> {
  for (let seed = 1; seed <= copies; seed++) {
    const outcome = await Promise.resolve()
      .then(() => read(mutate(Buffer.from(bytes), new Random(seed))))
      .then(
        () => 'read',
        (thrown: unknown) => (thrown instanceof Error ? thrown.name : String(thrown)),
      )
    expect(['read', 'FormatError', 'SourceError'], `seed ${seed}`).toContain(outcome)
  }
}

// The XML library names each fault that it meets; thousands of them tell nobody anything.
beforeAll(() => {
  for (const level of ['error', 'warn'] as const) vi.spyOn(console, level).mockImplementation(() => {})
})

describe('damaged by the thousand', () => {
  it('property lists', async () => {
    await readAll(file('plain', 'Info.plist'), (damaged) => parsePlistDict(damaged))
    await readAll(file('plain', 'Manifest.plist'), (damaged) => parsePlistDict(damaged))
  })

  it('key bags', () => readAll(keybag(), (damaged) => parseKeybag(damaged)))

  it('legacy lists of files', () =>
    readAll(file('legacy', 'Manifest.mbdb').subarray(0, 20_000), (damaged) =>
      readLegacyManifest(new MemorySource(damaged), () => {}),
    ))

  it('manifests', () =>
    readAll(
      file('plain', 'Manifest.db'),
      (damaged) => readManifest(new MemorySource(damaged), () => {}).all(),
      COPIES / 4,
    ))

  it('whole backups, opened from disk', async () => {
    const folder = join(scratchFolder(), 'damaged')
    await cp(demoBackup(inject('demoFolder'), 'legacy').folder, folder, { recursive: true })
    await readAll(
      file('legacy', 'Manifest.mbdb'),
      async (damaged) => {
        writeFileSync(join(folder, 'Manifest.mbdb'), damaged)
        const tree = await openBackup(folder, () => {})
        for (const entry of tree.entries()) await tree.storedBytes(entry)
      },
      30,
    )
  })
})
