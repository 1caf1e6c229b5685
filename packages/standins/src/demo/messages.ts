import { readFile, rm } from 'node:fs/promises'
import sqlite from 'node-sqlite3-wasm'
import { buildBinary } from 'plist'
import type { Random } from '../random.js'
import { attributedBody } from './attributed.js'
import { GROUPS, LOST_PERSON, PEOPLE } from './people.js'
import { smallTalk, stageTalk } from './talk.js'

/** What the builder wrote, for checks against what is read back. */
export interface WrittenMessage {
  rowid: number
  guid: string
  text: string
  at: string
  fromMe: boolean
  address: string
  chat: string
  fate: 'live' | 'binned' | 'deleted'
}

const COCOA = 978_307_200
const cocoaNanoseconds = (at: Date) => BigInt(Math.round(at.getTime() / 1000) - COCOA) * 1_000_000_000n

const SCHEMA = `
CREATE TABLE message (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, text TEXT, replace INTEGER DEFAULT 0, service_center TEXT, handle_id INTEGER DEFAULT 0,
  subject TEXT, country TEXT, attributedBody BLOB, version INTEGER DEFAULT 0, type INTEGER DEFAULT 0, service TEXT, account TEXT, account_guid TEXT, error INTEGER DEFAULT 0,
  date INTEGER, date_read INTEGER, date_delivered INTEGER, is_delivered INTEGER DEFAULT 0, is_finished INTEGER DEFAULT 0, is_from_me INTEGER DEFAULT 0, is_read INTEGER DEFAULT 0,
  is_sent INTEGER DEFAULT 0, cache_has_attachments INTEGER DEFAULT 0, cache_roomnames TEXT, item_type INTEGER DEFAULT 0, other_handle INTEGER DEFAULT 0, group_title TEXT,
  group_action_type INTEGER DEFAULT 0, associated_message_guid TEXT, associated_message_type INTEGER DEFAULT 0, balloon_bundle_id TEXT, payload_data BLOB,
  message_summary_info BLOB, thread_originator_guid TEXT, thread_originator_part TEXT, date_retracted INTEGER DEFAULT 0, date_edited INTEGER DEFAULT 0, part_count INTEGER,
  associated_message_emoji TEXT);
CREATE TABLE handle (ROWID INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, id TEXT NOT NULL, country TEXT, service TEXT NOT NULL, uncanonicalized_id TEXT, UNIQUE (id, service));
CREATE TABLE chat (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, style INTEGER, state INTEGER, account_id TEXT, properties BLOB, chat_identifier TEXT,
  service_name TEXT, room_name TEXT, account_login TEXT, is_archived INTEGER DEFAULT 0, display_name TEXT, group_id TEXT);
CREATE TABLE chat_message_join (chat_id INTEGER REFERENCES chat (ROWID) ON DELETE CASCADE, message_id INTEGER REFERENCES message (ROWID) ON DELETE CASCADE,
  message_date INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id));
CREATE TABLE chat_handle_join (chat_id INTEGER, handle_id INTEGER, UNIQUE (chat_id, handle_id));
CREATE TABLE attachment (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, guid TEXT UNIQUE NOT NULL, created_date INTEGER DEFAULT 0, filename TEXT, uti TEXT, mime_type TEXT,
  transfer_state INTEGER DEFAULT 0, is_outgoing INTEGER DEFAULT 0, transfer_name TEXT, total_bytes INTEGER DEFAULT 0);
CREATE TABLE message_attachment_join (message_id INTEGER, attachment_id INTEGER, UNIQUE (message_id, attachment_id));
CREATE TABLE deleted_messages (ROWID INTEGER PRIMARY KEY AUTOINCREMENT UNIQUE, guid TEXT NOT NULL);
CREATE TABLE chat_recoverable_message_join (chat_id INTEGER, message_id INTEGER, delete_date INTEGER, ck_sync_state INTEGER DEFAULT 0, PRIMARY KEY (chat_id, message_id),
  CHECK (delete_date != 0));`

interface Chat {
  id: number
  guid: string
  members: number[]
  lost: boolean
}

/** An attachment's file, to be laid into the backup. */
export interface AttachedFile {
  path: string
  content: Uint8Array
}

/** Builds sms.db with three years of talk, some of it deleted by ordinary SQL in an ordinary SQLite. */
export class MessageDatabase {
  readonly written: WrittenMessage[] = []
  readonly files: AttachedFile[] = []
  readonly #database: InstanceType<typeof sqlite.Database>
  readonly #chats: Chat[] = []

  constructor(
    readonly file: string,
    readonly random: Random,
    readonly takenAt: Date,
  ) {
    this.#database = new sqlite.Database(file)
    this.#database.exec(`PRAGMA secure_delete=OFF; ${SCHEMA} BEGIN`)
    PEOPLE.forEach((person, i) => {
      this.#database.run('INSERT INTO handle (ROWID, id, country, service) VALUES (?, ?, ?, ?)', [
        i + 1,
        person.address,
        'us',
        'iMessage',
      ])
    })
    for (const [i, person] of PEOPLE.entries()) this.#addChat(`iMessage;-;${person.address}`, 45, null, [i])
    for (const [i, group] of GROUPS.entries())
      this.#addChat(`iMessage;+;chat${70001 + i}`, 43, group.name, group.members)
    ;(this.#chats[LOST_PERSON] as Chat).lost = true
  }

  #addChat(guid: string, style: number, name: string | null, members: number[]): void {
    const id = this.#chats.length + 1
    this.#database.run(
      'INSERT INTO chat (ROWID, guid, style, state, chat_identifier, service_name, display_name) VALUES (?, ?, ?, 3, ?, ?, ?)',
      [id, guid, style, guid.slice(11), 'iMessage', name],
    )
    for (const member of members) this.#database.run('INSERT INTO chat_handle_join VALUES (?, ?)', [id, member + 1])
    this.#chats.push({ id, guid, members, lost: false })
  }

  /** Writes messages in the order of their dates: `everyday` of them over the years, and the lost conversation in one week. */
  write(everyday: number, lost: number, pictures: Uint8Array[]): void {
    const talks = this.#chats.filter((chat) => !chat.lost)
    const span = 3 * 365 * 86_400_000
    const moments = Array.from(
      { length: everyday },
      () => this.takenAt.getTime() - 3_600_000 - Math.floor(this.random.next() * span),
    ).sort((a, b) => a - b)
    const lostFrom = this.takenAt.getTime() - 40 * 86_400_000
    let written = 0
    for (const moment of moments) {
      if (written === 0 && moment > lostFrom)
        while (written < lost) this.#stageMessage(lostFrom + written++ * 2_400_000)
      const chat = this.random.chance(0.3) ? (talks[this.random.int(0, 4)] as Chat) : this.random.pick(talks)
      const id = this.#insert(chat, new Date(moment), smallTalk(this.random))
      if (this.random.chance(0.04)) this.#attach(id, this.random.pick(pictures), new Date(moment))
      if (this.random.chance(0.03)) this.#react(chat, new Date(moment + 60_000))
    }
  }

  /** Some messages had another wording first; one was taken back. */
  editSome(): void {
    for (const [i, message] of this.written.entries()) {
      if (i % 60 !== 30 || message.fate !== 'live') continue
      const at = cocoaNanoseconds(new Date(Date.parse(message.at) + 90_000))
      const seconds = (moment: number) => Math.round(moment / 1000) - COCOA
      const wordings = [`${message.text} (draft)`, message.text].map((text, k) => ({
        d: seconds(Date.parse(message.at) + k * 90_000),
        t: attributedBody(text),
      }))
      this.#database.run('UPDATE message SET date_edited = ?, message_summary_info = ? WHERE ROWID = ?', [
        at,
        buildBinary({ ec: { 0: wordings }, ep: [0] }),
        message.rowid,
      ])
    }
  }

  #stageMessage(at: number): void {
    this.#insert(this.#chats[LOST_PERSON] as Chat, new Date(at), stageTalk(this.random, this.written.length))
  }

  #insert(chat: Chat, at: Date, text: string): number {
    const fromMe = this.random.chance(0.45)
    const member = this.random.pick(chat.members)
    const group = chat.members.length > 1
    const guid = this.random.uuid()
    const date = cocoaNanoseconds(at)
    const result = this.#database.run(
      `INSERT INTO message (guid, text, handle_id, service, date, date_read, date_delivered, is_delivered, is_finished, is_from_me, is_read, is_sent, country, part_count)
       VALUES (?, ?, ?, 'iMessage', ?, ?, ?, 1, 1, ?, 1, ?, 'us', 1)`,
      [
        guid,
        text,
        fromMe && group ? 0 : member + 1,
        date,
        fromMe ? 0 : date + 45_000_000_000n,
        fromMe ? date + 2_000_000_000n : 0,
        fromMe ? 1 : 0,
        fromMe ? 1 : 0,
      ],
    )
    const rowid = Number(result.lastInsertRowid)
    this.#database.run('INSERT INTO chat_message_join VALUES (?, ?, ?)', [chat.id, rowid, date])
    const whole = new Date(Math.round(at.getTime() / 1000) * 1000).toISOString()
    this.written.push({
      rowid,
      guid,
      text,
      at: whole,
      fromMe,
      address: (PEOPLE[member] as { address: string }).address,
      chat: chat.guid,
      fate: 'live',
    })
    return rowid
  }

  #attach(message: number, content: Uint8Array, at: Date): void {
    const id = this.files.length + 1
    const name = `IMG_${String(9000 + id)}.JPG`
    const path = `Library/SMS/Attachments/${(id % 256).toString(16).padStart(2, '0')}/${String(id % 16).padStart(2, '0')}/${this.random.uuid()}/${name}`
    this.#database.run(
      'INSERT INTO attachment (ROWID, guid, created_date, filename, uti, mime_type, transfer_state, transfer_name, total_bytes) VALUES (?, ?, ?, ?, ?, ?, 5, ?, ?)',
      [
        id,
        `at_0_${this.random.uuid()}`,
        cocoaNanoseconds(at),
        `~/${path}`,
        'public.jpeg',
        'image/jpeg',
        name,
        content.byteLength,
      ],
    )
    this.#database.run('INSERT INTO message_attachment_join VALUES (?, ?)', [message, id])
    this.#database.run('UPDATE message SET cache_has_attachments = 1 WHERE ROWID = ?', [message])
    this.files.push({ path, content })
  }

  #react(chat: Chat, at: Date): void {
    const target = this.written.at(-1) as WrittenMessage
    const member = this.random.pick(chat.members)
    const row = this.#database.run(
      `INSERT INTO message (guid, text, handle_id, service, date, is_from_me, associated_message_guid, associated_message_type) VALUES (?, ?, ?, 'iMessage', ?, 0, ?, ?)`,
      [this.random.uuid(), null, member + 1, cocoaNanoseconds(at), `p:0/${target.guid}`, this.random.int(2000, 2005)],
    )
    this.#database.run('INSERT INTO chat_message_join VALUES (?, ?, ?)', [
      chat.id,
      Number(row.lastInsertRowid),
      cocoaNanoseconds(at),
    ])
  }

  /** The owner's mishap: the carpenter's conversation deleted, single messages deleted, some still in the bin. */
  loseSome(): void {
    for (const message of this.written) {
      const lostChat = message.chat === this.#chats[LOST_PERSON]?.guid
      if (lostChat || this.random.chance(0.02)) message.fate = 'deleted'
      else if (this.takenAt.getTime() - Date.parse(message.at) < 60 * 86_400_000 && this.random.chance(0.12))
        message.fate = 'binned'
    }
    this.#database.exec('COMMIT; BEGIN')
    for (const message of this.written) if (message.fate === 'binned') this.#bin(message)
    const deleted = this.written.filter((message) => message.fate === 'deleted').map((message) => message.rowid)
    for (const rowid of deleted) {
      this.#database.run('DELETE FROM chat_message_join WHERE message_id = ?', [rowid])
      this.#database.run('DELETE FROM message WHERE ROWID = ?', [rowid])
    }
  }

  #bin(message: WrittenMessage): void {
    const chat = this.#chats.find((known) => known.guid === message.chat) as Chat
    const deletedAt = new Date(this.takenAt.getTime() - this.random.int(1, 28) * 86_400_000)
    this.#database.run('DELETE FROM chat_message_join WHERE message_id = ?', [message.rowid])
    this.#database.run(
      'INSERT INTO chat_recoverable_message_join (chat_id, message_id, delete_date) VALUES (?, ?, ?)',
      [chat.id, message.rowid, cocoaNanoseconds(deletedAt)],
    )
  }

  /** Goes back to the state of an earlier day, before anything was deleted. To be called in place of `loseSome`. */
  goBackTo(date: Date): void {
    const before = cocoaNanoseconds(date)
    this.#database.exec('COMMIT')
    this.#database.run('DELETE FROM message WHERE date > ?', [before])
    this.#database.exec(`DELETE FROM chat_message_join WHERE message_id NOT IN (SELECT ROWID FROM message);
      DELETE FROM message_attachment_join WHERE message_id NOT IN (SELECT ROWID FROM message);
      DELETE FROM attachment WHERE ROWID NOT IN (SELECT attachment_id FROM message_attachment_join); VACUUM; BEGIN`)
    const kept = this.#database.all('SELECT filename FROM attachment') as { filename: string }[]
    const paths = new Set(kept.map((row) => row.filename.slice(2)))
    this.files.splice(0, this.files.length, ...this.files.filter((file) => paths.has(file.path)))
    this.written.splice(
      0,
      this.written.length,
      ...this.written.filter((message) => Date.parse(message.at) <= date.getTime()),
    )
  }

  /** Closes the database and gives its bytes. */
  async finish(): Promise<Uint8Array> {
    this.#database.exec('COMMIT')
    this.#database.close()
    const bytes = await readFile(this.file)
    await rm(this.file)
    return bytes
  }
}
