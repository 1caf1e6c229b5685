import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, truncateSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { BackupBuilder } from '@lumbrin/standins/backup/builder'
import { Random } from '@lumbrin/standins/random'
import sqlite from 'node-sqlite3-wasm'

/** A backup on a shelf, as it was put there. */
export interface Shelved {
  folder: string
  /** Which device it is of. */
  device: number
  deviceName: string
  udid: string
  takenAt: Date
  kind: 'plain' | 'encrypted' | 'legacy'
  password: string | null
  /** `list`: its list of files is cut; `unfinished`: its last run was interrupted. */
  harm: 'list' | 'unfinished' | null
  /** The backup that it was copied from. */
  copyOf: Shelved | null
}

export const SHELF_PASSWORD = 'nine strings'
const DAY_MS = 86_400_000

/**
 * Fills a folder with small backups of made-up devices, in folders of three depths: plain ones, some with a password, in
 * the old layout, damaged, copied elsewhere, and copies of copies.
 */
export async function fillShelf(
  folder: string,
  { devices, backups, newest, seed }: { devices: number; backups: number; newest: Date; seed: number },
): Promise<Shelved[]> {
  const random = new Random(seed)
  const shelf: Shelved[] = []
  while (shelf.length < backups) {
    const place = join(folder, random.pick(['', 'shop', 'shop/old disk']), `backup ${shelf.length}`)
    const copied = shelf.length > 5 && random.chance(0.15) ? random.pick(shelf) : null
    if (copied) {
      cpSync(copied.folder, place, { recursive: true })
      shelf.push({ ...copied, folder: place, copyOf: copied })
      continue
    }
    const device = random.int(0, devices - 1)
    const kind = random.pick(['plain', 'plain', 'encrypted', 'legacy'] as const)
    const harm = random.chance(0.08) ? random.pick(['list', 'unfinished'] as const) : null
    const takenAt = new Date(newest.getTime() - (shelf.length * 3 + random.int(0, 2)) * DAY_MS)
    shelf.push(await shelve({ folder: place, device, kind, harm, takenAt }))
  }
  return shelf
}

/** Puts one backup of a device with a few messages on the shelf. */
export async function shelve(
  wish: Pick<Shelved, 'folder' | 'device' | 'kind' | 'harm' | 'takenAt'> & { password?: string; messages?: string[] },
): Promise<Shelved> {
  const { folder, device, kind, harm, takenAt } = wish
  const password = kind === 'encrypted' ? (wish.password ?? SHELF_PASSWORD) : null
  const identity = {
    name: `Phone ${device + 1}`,
    udid: `00008110-${String(device).padStart(16, '0')}`,
    productType: 'iPhone14,5',
    osVersion: kind === 'legacy' ? '8.4' : '17.6',
    takenAt,
  }
  const backup = new BackupBuilder(folder, identity, {
    ...(kind === 'legacy' ? { layout: 'legacy' as const } : {}),
    ...(password ? { lock: { password, firstRounds: 10 } } : {}),
  })
  await backup.addFile('HomeDomain', 'Library/SMS/sms.db', messagesStore(wish.messages ?? ['Are the strings cut?']))
  await backup.finish()
  if (harm === 'list') truncateSync(join(folder, kind === 'legacy' ? 'Manifest.mbdb' : 'Manifest.db'), 100)
  if (harm === 'unfinished') {
    const status = join(folder, 'Status.plist')
    const text = readFileSync(status).toString('latin1').replace('finished', 'uploadin')
    writeFileSync(status, Buffer.from(text, 'latin1'))
  }
  return { ...wish, deviceName: identity.name, udid: identity.udid, password, copyOf: null }
}

/** A database of messages of one conversation, as small as the reader lets it be. */
function messagesStore(texts: readonly string[]): Uint8Array {
  const folder = mkdtempSync(join(tmpdir(), 'lumbrin-shelf-'))
  mkdirSync(folder, { recursive: true })
  const path = join(folder, 'sms.db')
  try {
    const database = new sqlite.Database(path)
    database.exec(`CREATE TABLE message (ROWID INTEGER PRIMARY KEY, guid TEXT UNIQUE, text TEXT, handle_id INTEGER, date INTEGER, is_from_me INTEGER, service TEXT);
      CREATE TABLE handle (ROWID INTEGER PRIMARY KEY, id TEXT); INSERT INTO handle VALUES (1, '+12025550107');
      CREATE TABLE chat (ROWID INTEGER PRIMARY KEY, guid TEXT, chat_identifier TEXT, display_name TEXT); INSERT INTO chat VALUES (1, 'SMS;-;+12025550107', '+12025550107', '');
      CREATE TABLE chat_message_join (chat_id INTEGER, message_id INTEGER); CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER);
      INSERT INTO chat_handle_join VALUES (1, 1);`)
    for (const [i, text] of texts.entries()) {
      database.run("INSERT INTO message VALUES (?, ?, ?, 1, ?, 0, 'SMS')", [
        i + 1,
        `guid-${text}`,
        text,
        700_000_000 + i,
      ])
      database.run('INSERT INTO chat_message_join VALUES (1, ?)', [i + 1])
    }
    database.close()
    return readFileSync(path)
  } finally {
    rmSync(folder, { recursive: true, force: true })
  }
}
