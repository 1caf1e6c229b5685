import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'

/**
 * A backup of very many messages, read by the command line, against SQLite's shell that dumps the same tables, in one
 * run: `npm run bench -- messages [COUNT]`.
 */
export async function benchMessages(words: string[]): Promise<void> {
  const count = Number(words[0] ?? 1_000_000)
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-messages-'))
  try {
    const database = join(folder, 'sms.db')
    execFileSync('sqlite3', [database], { input: script(count) })
    const backup = new BackupBuilder(join(folder, 'backup'), {
      name: 'Talkative',
      productType: 'iPhone14,5',
      osVersion: '17.0',
      udid: 'a'.repeat(40),
      takenAt: new Date('2026-01-01'),
    })
    await backup.addFile('HomeDomain', 'Library/SMS/sms.db', readFileSync(database))
    await backup.finish()
    const out = join(folder, 'out.jsonl')
    const ours = timed('node', [
      'packages/cli/dist/lumbrin.mjs',
      ...['read', join(folder, 'backup'), '--only', 'messages', '--passes', 'live', '--out', out],
    ])
    const lines = Number(execFileSync('wc', ['-l', out], { encoding: 'utf8' }).trim().split(' ')[0])
    const theirs = timed('sqlite3', [
      database,
      `.output ${join(folder, 'dump.sql')}`,
      '.dump message chat_message_join',
    ])
    console.log(
      `${lines} of ${count} messages, ${Math.round(statSync(database).size / 1e6)} MB: read in ${ours.seconds.toFixed(1)} s with ${ours.megabytes} MB at most; the shell dumps them in ${theirs.seconds.toFixed(1)} s; ratio ${(ours.seconds / theirs.seconds).toFixed(2)}`,
    )
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}

/** Runs a program under GNU time. */
function timed(program: string, words: string[]): { seconds: number; megabytes: number } {
  const { stderr, status } = spawnSync('/usr/bin/time', ['-f', '%e %M', program, ...words], { encoding: 'utf8' })
  if (status !== 0) throw new Error(stderr)
  const [seconds = 0, kilobytes = 0] = stderr.trim().split('\n').at(-1)?.split(' ').map(Number) ?? []
  return { seconds, megabytes: Math.round(kilobytes / 1000) }
}

const script = (count: number) => `
CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, handle_id INTEGER DEFAULT 0, attributedBody BLOB, service TEXT, date INTEGER,
  date_read INTEGER, date_delivered INTEGER, is_from_me INTEGER DEFAULT 0, item_type INTEGER DEFAULT 0, associated_message_guid TEXT, associated_message_type INTEGER DEFAULT 0);
CREATE TABLE handle (ROWID INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, id TEXT NOT NULL, country TEXT, service TEXT NOT NULL);
CREATE TABLE chat (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, style INTEGER, chat_identifier TEXT, display_name TEXT);
CREATE TABLE chat_message_join (chat_id INTEGER, message_id INTEGER, message_date INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER);
BEGIN;
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < 200)
  INSERT INTO handle SELECT i, '+12025550' || printf('%03d', i), 'us', 'iMessage' FROM n;
INSERT INTO chat SELECT ROWID, 'iMessage;-;' || id, 45, id, NULL FROM handle;
INSERT INTO chat_handle_join SELECT ROWID, ROWID FROM handle;
WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n WHERE i < ${count})
  INSERT INTO message SELECT i, printf('%08X-4E1B-4D1F-8A00-%012X', i * 2654435761 & 4294967295, i), 'We load the van after the matinee, row ' || i, i % 200 + 1, NULL, 'iMessage',
  (500000000 + i * 97) * 1000000000, 0, 0, i % 3 = 0, 0, NULL, 0 FROM n;
INSERT INTO chat_message_join SELECT handle_id, ROWID, date FROM message;
COMMIT;`
