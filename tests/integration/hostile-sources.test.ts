import { execFileSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { join } from 'node:path'
import { HangError } from '@lumbrin/core/io/patience'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'
import { buildBinary } from 'plist'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { claimWork } from '../../apps/workbench/src/database/claims.js'
import { isConnectionLoss, isRefusal } from '../../apps/workbench/src/database/connection.js'
import { appendLog, listLog } from '../../apps/workbench/src/database/log.js'
import { findRead } from '../../apps/workbench/src/database/sources.js'
import type { FindingId } from '../../apps/workbench/src/domain/ids.js'
import type { Read } from '../../apps/workbench/src/domain/source.js'
import { openFindingContent } from '../../apps/workbench/src/services/content.js'
import { runRead } from '../../apps/workbench/src/services/reading.js'
import { startRead } from '../../apps/workbench/src/services/sources.js'
import { demoBackup, makeByShell, scratchFolder } from '../setup/fixtures.js'
import { type Workbench, workbenchWith } from './workbench.js'

const BOOK = ['HomeDomain', 'Library/AddressBook/AddressBook.sqlitedb'] as const
const device = {
  name: 'Puppet phone',
  productType: 'iPhone14,5',
  osVersion: '17.6',
  udid: '00008110-000A55000155801E',
  takenAt: new Date('2026-11-01T08:00:00Z'),
}

const idOf = (domain: string, path: string) => createHash('sha1').update(`${domain}-${path}`).digest('hex')

/** Where a backup keeps a content. */
const storedAt = (folder: string, domain: string, path: string) => {
  const id = idOf(domain, path)
  return join(folder, id.slice(0, 2), id)
}

/** A backup with an address book that SQL makes, in UTF-16 as the shell alone writes it. */
async function backupWithBook(sql: string): Promise<string> {
  const file = join(scratchFolder(), 'book.db')
  makeByShell(
    file,
    'UTF-16le',
    `CREATE TABLE ABPerson (ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, Note TEXT, guid TEXT);
     CREATE TABLE ABMultiValue (UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, label INTEGER, value TEXT);
     ${sql}`,
  )
  const folder = join(scratchFolder(), 'backup')
  const builder = new BackupBuilder(folder, device)
  await builder.addFile(...BOOK, readFileSync(file))
  await builder.finish()
  return folder
}

async function benchWith(folder: string): Promise<Workbench> {
  return workbenchWith(inject('databaseUrl'), folder)
}

/** Reads a category to its end. */
async function read({ db, sourceId }: Workbench, category: 'contacts' | 'photos'): Promise<Read> {
  const id = await startRead(db, sourceId, { categories: [category], passes: ['live'] })
  await claimWork(db, 'reads', 'test:1')
  await runRead(db, id, new AbortController().signal)
  return (await findRead(db, id)) as Read
}

describe('text with half a character in it', () => {
  // D83D is the first half of an emoji: UTF-16 can hold it alone, UTF-8 and JSON for others cannot.
  const half = "CAST(X'3dd8' AS TEXT)"

  it('is read, with the sign for what cannot be shown', async () => {
    const folder = await backupWithBook(
      `INSERT INTO ABPerson VALUES (1, 'Ilse' || ${half}, 'Varga', ${half} || 'the old stage door', 'one'), (2, 'Bram', 'Okafor', NULL, 'two');`,
    )
    const bench = await benchWith(folder)
    expect(await read(bench, 'contacts')).toMatchObject({ state: 'done', error: null })
    const [ilse, bram] = await bench.db('sightings').orderBy('ordinal').select('title', 'fields')
    expect(ilse?.title).toBe('Ilse\ufffd Varga')
    expect(ilse?.fields).toMatchObject({ givenName: 'Ilse\ufffd', note: '\ufffdthe old stage door' })
    expect(bram?.title).toBe('Bram Okafor')
  })

  it('stands in the name of a device without harm', async () => {
    const folder = await backupWithBook("INSERT INTO ABPerson VALUES (1, 'Ilse', 'Varga', NULL, 'one');")
    const info = { 'Device Name': 'Phone\ud83d', 'Last Backup Date': device.takenAt, 'Product Version': '17.6' }
    writeFileSync(join(folder, 'Info.plist'), buildBinary(info))
    const bench = await benchWith(folder)
    expect(await bench.db('sources').first('info')).toMatchObject({ info: { deviceName: 'Phone\ufffd' } })
    expect(await read(bench, 'contacts')).toMatchObject({ state: 'done' })
  })
})

describe('what the database does not take', () => {
  // Longer than any column is: it cannot be stored, now or later.
  const tooLong = "replace(hex(zeroblob(9000000)), '0', 'x')"

  it('is left out by itself, and the read says so', async () => {
    const folder = await backupWithBook(
      `INSERT INTO ABPerson VALUES (1, 'Ilse', 'Varga', NULL, 'one'), (2, 'Long', ${tooLong}, NULL, 'two'), (3, 'Bram', 'Okafor', NULL, 'three');`,
    )
    const bench = await benchWith(folder)
    const done = await read(bench, 'contacts')
    expect(await bench.db('sightings').orderBy('ordinal').pluck('title')).toEqual(['Ilse Varga', 'Bram Okafor'])
    expect(done).toMatchObject({ state: 'gaps', error: null })
    expect(done.steps[0]?.account).toMatchObject({ read: 2, rowsSkipped: 1 })
    expect(done.warnings.map(({ code }) => code)).toContain('not-stored')
  })

  it('is found missing after a crash too', async () => {
    const folder = await backupWithBook(
      `INSERT INTO ABPerson VALUES (1, 'Long', ${tooLong}, NULL, 'one'), (2, 'Bram', 'Okafor', NULL, 'two');`,
    )
    const bench = await benchWith(folder)
    const first = await read(bench, 'contacts')
    // As a reader leaves it that dies between its last batch and the end of the step.
    await bench.db('read_steps').update({ finished: false, account: null })
    await bench.db('reads').update({ state: 'queued', warnings: '[]' })
    await claimWork(bench.db, 'reads', 'test:2')
    await runRead(bench.db, first.id, new AbortController().signal)
    expect((await findRead(bench.db, first.id))?.steps[0]?.account).toEqual(first.steps[0]?.account)
  })

  it('is told from a key that is there already, and from a disk that does not answer', async () => {
    const { db, jobId } = await benchWith(demoBackup(inject('demoFolder')).folder)
    const again = db('log_heads').insert({ job_id: jobId, entries: 0, hash: '0'.repeat(64) })
    const error = await again.catch((thrown: unknown) => thrown)
    expect(error).toMatchObject({ code: 'ER_DUP_ENTRY' })
    expect(isRefusal(error)).toBe(false)
    expect(isConnectionLoss(new HangError('no answer'))).toBe(false)
  })

  it('leaves no text of an owner in an error, in the log, or beside it', async () => {
    const bench = await benchWith(demoBackup(inject('demoFolder')).folder)
    const secret = 'the marionette is under the stage'
    const error = await appendLog(bench.db, bench.jobId, secret.repeat(50), secret).then(
      () => undefined,
      (thrown: Error) => thrown,
    )
    expect(error?.message).toBe('The database refused a statement (ER_DATA_TOO_LONG).')
    for (const said of [error?.message, error?.stack, JSON.stringify(error), String(error)])
      expect(said).not.toContain('marionette')
    const inside = await bench.db
      .transaction(async (trx) => {
        await trx('jobs')
          .where({ id: secret.repeat(3) as never })
          .update({ owner: secret.repeat(200) })
        await trx.raw(`SELECT '${secret}' FROM nowhere`)
      })
      .catch((thrown: Error) => thrown)
    expect(String((inside as Error).stack)).toContain('refused')
    expect(String((inside as Error).stack)).not.toContain('marionette')
    expect(JSON.stringify(await listLog(bench.db, bench.jobId))).not.toContain('marionette')
  })
})

describe('what lies in the place of a content, and is no file', () => {
  const PICTURES = ['IMG_0001.JPG', 'IMG_0002.JPG', 'IMG_0003.JPG']
  const place = (name: string) => ['CameraRollDomain', `Media/DCIM/100APPLE/${name}`] as const

  async function backupWithPictures(): Promise<string> {
    const folder = join(scratchFolder(), 'backup')
    const builder = new BackupBuilder(folder, device)
    for (const name of PICTURES) await builder.addFile(...place(name), Buffer.from(`the picture ${name}`))
    await builder.finish()
    return folder
  }

  const replaceBy: [string, (path: string) => void | Promise<void>][] = [
    ['a named pipe', (path) => void execFileSync('mkfifo', [path])],
    ['a socket', listenAt],
    ['a folder', (path) => void execFileSync('mkdir', [path])],
    ['a link to a device', (path) => void execFileSync('ln', ['-s', '/dev/zero', path])],
    ['a link to a file of this computer', (path) => void execFileSync('ln', ['-s', '/etc/hostname', path])],
  ]

  it.each(replaceBy)('%s: the read ends, says what is missing, and content requests are answered', async (_, make) => {
    const folder = await backupWithPictures()
    const path = storedAt(folder, ...place('IMG_0002.JPG'))
    rmSync(path)
    await make(path)
    const bench = await benchWith(folder)
    const done = await read(bench, 'photos')
    expect(done).toMatchObject({ state: 'gaps', error: null })
    expect(done.steps[0]?.account?.read).toBe(3)
    const states = await bench.db('sightings').orderBy('title').pluck('content_state')
    expect(states).toEqual(['present', expect.not.stringMatching('present'), 'present'])
    const ids = (await bench.db('findings').orderBy('title').pluck('id')).map(Number)
    // Each of the server's threads would wait on it for ever, were it opened as a file is.
    const asked = Array.from({ length: 8 }, () =>
      expect(openFindingContent(bench.db, ids[1] as FindingId)).rejects.toThrow(
        /no source .* holds|cannot be read|give it out/i,
      ),
    )
    await Promise.all(asked)
    const { source } = await openFindingContent(bench.db, ids[0] as FindingId)
    expect(Buffer.from(await source.read(0, source.size)).toString()).toBe('the picture IMG_0001.JPG')
    await source.close()
  })
})

async function listenAt(path: string): Promise<void> {
  const server = createServer()
  await new Promise<void>((go) => server.listen(path, go))
  onTestFinished(() => void server.close())
}
