import { once } from 'node:events'
import { chmod, cp, mkdir, readFile, rm, truncate, writeFile } from 'node:fs/promises'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { describe, expect, inject, it } from 'vitest'
import { all, demoBackup, scratchFolder, tool, warnings } from '../../../../tests/setup/fixtures.js'
import { findBackups } from './discover.js'
import { readBackupInfo } from './info.js'
import { fileIdOf, isInnerPathText } from './manifest-values.js'
import { openBackup } from './open.js'
import type { SourceEntry } from './types.js'

async function copyOfDemo(): Promise<string> {
  const copy = join(scratchFolder(), 'renamed folder')
  await cp(demoBackup(inject('demoFolder')).folder, copy, { recursive: true })
  return copy
}

describe('finding backups', () => {
  it('goes by contents, four folders deep, whatever the folder is called', async () => {
    const top = scratchFolder()
    await mkdir(join(top, 'a/b/c/d/e'), { recursive: true })
    await cp(demoBackup(inject('demoFolder')).folder, join(top, 'a/b/c/my old phone'), { recursive: true })
    await cp(join(top, 'a/b/c/my old phone'), join(top, 'a/b/c/d/e'), { recursive: true })
    const found = await all(findBackups([top]))
    expect(found.map((backup) => backup.path)).toEqual([join(top, 'a/b/c/my old phone')])
    expect(found[0]).toMatchObject({
      layout: 'modern',
      deviceName: 'Odile’s phone',
      productType: 'iPhone14,5',
      osVersion: '17.6.1',
      encrypted: false,
      complete: true,
    })
    expect(found[0]?.takenAt?.toISOString()).toBe('2026-11-14T20:15:00.000Z')
    expect(found[0]?.bytes).toBeGreaterThan(100_000)
  })

  it('lists a folder that is a backup itself', async () => {
    const { folder } = demoBackup(inject('demoFolder'))
    expect((await all(findBackups([folder]))).length).toBe(1)
  })
})

describe('opening a backup', () => {
  it('lists every file with its size and date, under the id that sha1sum computes', async () => {
    const { folder } = demoBackup(inject('demoFolder'))
    const tree = await openBackup(folder, () => {})
    const files = [...tree.entries()].filter((entry) => entry.kind === 'file')
    expect(files.length).toBeGreaterThan(20)
    for (const entry of files) {
      const content = await readFile(join(folder, entry.id.slice(0, 2), entry.id))
      expect(entry.size).toBe(content.length)
      expect(entry.modifiedAt).toBeInstanceOf(Date)
    }
    const [one] = files
    const name = `${one?.domain}-${one?.path}`
    const file = join(scratchFolder(), 'name')
    await writeFile(file, name)
    expect(tool('sha1sum', file).slice(0, 40)).toBe(one?.id)
    expect([...tree.entries()].some((entry) => entry.kind === 'directory' && entry.path === '')).toBe(true)
  })

  // Both from the reference, computed there with three programs.
  it('computes the known ids of well-known files', () => {
    expect(fileIdOf('HomeDomain', 'Library/SMS/sms.db')).toBe('3d0d7e5fb2ce288813306e4d4636395e047a3d28')
    expect(fileIdOf('AppDomain-com.example.app', 'Documents/a é.txt'.normalize('NFD'))).toBe(
      '7988b609736ba357d495e0410e17e6b9e9bbc70f',
    )
  })

  it('tells a listed file without content from one that is not listed', async () => {
    const folder = await copyOfDemo()
    const tree = await openBackup(folder, () => {})
    const entry = tree.find('HomeDomain', 'Library/SMS/sms.db')
    if (!entry) throw new Error('the demo has messages')
    await rm(join(folder, entry.id.slice(0, 2), entry.id))
    expect(await tree.open(entry)).toBeUndefined()
    expect(tree.find('HomeDomain', 'Library/SMS/other.db')).toBeUndefined()
  })

  it.each([
    [
      'a folder that is no backup',
      async (folder: string) => void (await rm(join(folder, 'Manifest.db'))),
      'not-a-backup',
    ],
    [
      'a folder that does not exist',
      async (folder: string) => void (await rm(folder, { recursive: true })),
      'not-found',
    ],
    [
      'a manifest that is no database',
      async (folder: string) => void (await writeFile(join(folder, 'Manifest.db'), 'not a database '.repeat(20))),
      'not-readable',
    ],
    ['an empty manifest', async (folder: string) => void (await truncate(join(folder, 'Manifest.db'))), 'not-readable'],
  ])('refuses %s clearly', async (_, spoil, code) => {
    const folder = await copyOfDemo()
    await spoil(folder)
    await expect(openBackup(folder, () => {})).rejects.toMatchObject({ name: 'SourceError', code })
  })

  it('reads what a cut manifest still lists, and says that it is cut', async () => {
    const folder = await copyOfDemo()
    const whole = (await openBackup(folder, () => {})).fileCount
    const { size } = await import('node:fs').then((fs) => fs.statSync(join(folder, 'Manifest.db')))
    await truncate(join(folder, 'Manifest.db'), Math.floor(size * 0.6))
    const warned = warnings()
    const tree = await openBackup(folder, warned.report)
    expect(tree.fileCount).toBeGreaterThan(0)
    expect(tree.fileCount).toBeLessThan(whole)
    expect(warned.list.some((warning) => warning.path === 'Manifest.db')).toBe(true)
  })

  it('goes on without its property lists', async () => {
    const folder = await copyOfDemo()
    await rm(join(folder, 'Status.plist'))
    await writeFile(join(folder, 'Info.plist'), 'garbage')
    const warned = warnings()
    const info = await readBackupInfo(folder, warned.report)
    expect(info).toMatchObject({ deviceName: 'Odile’s phone', osVersion: '17.6.1', encrypted: false })
    expect(warned.list.map((warning) => warning.code).sort()).toEqual(['plist-damaged', 'plist-missing'])
  })

  it.each([
    ['Manifest.plist', /encrypted|Manifest\.plist/],
    ['Manifest.db', /Manifest\.db/],
    ['Manifest.db-wal', /manifest/],
  ])('is refused where the system does not give out %s, which must not be guessed', async (name, words) => {
    const folder = await copyOfDemo()
    await rm(join(folder, name), { force: true })
    // A socket is there, and opening it fails (ENXIO) whoever asks.
    const socket = createServer().listen(join(folder, name))
    await once(socket, 'listening')
    await expect(openBackup(folder, () => {})).rejects.toMatchObject({
      name: 'SourceError',
      message: expect.stringMatching(words),
    })
    socket.close()
  })

  it('reads a file that is a hole of a terabyte as far as its list says, and a stray as far as there is something', async () => {
    const folder = await copyOfDemo()
    const tree = await openBackup(folder, () => {})
    const entry = [...tree.entries()].find(({ kind, size }) => kind === 'file' && (size ?? 0) > 1000) as SourceEntry
    await truncate(join(folder, entry.id.slice(0, 2), entry.id), 2 ** 40)
    const listed = await tree.open(entry)
    expect(listed?.size).toBe(entry.size)
    await listed?.close()
    const name = 'ab'.repeat(20)
    await mkdir(join(folder, 'ab'), { recursive: true })
    await writeFile(join(folder, 'ab', name), 'left behind')
    await truncate(join(folder, 'ab', name), 2 ** 40)
    const [stray] = await tree.strays()
    const left = await tree.open(stray as SourceEntry)
    expect(left?.size).toBeLessThan(1 << 20)
    await left?.close()
  })

  it('changes nothing in the source', async () => {
    const folder = await copyOfDemo()
    const sums = () => tool('sh', '-c', `cd '${folder}' && find . -type f | sort | xargs sha256sum`)
    const before = sums()
    await chmod(join(folder, 'Manifest.db'), 0o444)
    await (await openBackup(folder, () => {})).close()
    expect(sums()).toBe(before)
  })

  it.each(['../x', 'a/../../x', '/etc/passwd', 'a\0b'])('lets no path lead outside: %j', (path) => {
    expect(isInnerPathText(path)).toBe(false)
  })
})
