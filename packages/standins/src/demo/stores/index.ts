import { join } from 'node:path'
import { buildBinary } from 'plist'
import type { BackupBuilder } from '../../backup/builder.js'
import { Random } from '../../random.js'
import { coreDataChatStore, puppetryChatStore } from './chats.js'
import { contactPictureStore } from './contact-pictures.js'
import { keychainFile } from './keychain.js'
import { eventStore, NOTE_PICTURE, noteStore, reminderStore } from './papers.js'
import { callStore, contactStore, type Made } from './personal.js'
import { programme } from './programme.js'
import { memoStore, voicemailStore } from './recordings.js'
import { cocoa, insert, makeStore, StoreFile, type WrittenItem } from './store.js'
import { bookmarkStore, historyStore, tabStore } from './web.js'

/** What was written into a backup's smaller stores, by category. */
export type WrittenStores = Record<string, WrittenItem[]>

export interface StoreSize {
  /** Items of each small store, more or less. */
  items: number
  /** The generation of the stores before the present ones, where they differ. */
  legacy?: boolean
  /** Of a backup that shows an earlier state: the day of the last one. Nothing was lost yet then. */
  laterLostBy?: Date
  /** A few pictures, for what hangs on chats and notes. */
  pictures: readonly Uint8Array[]
  /** With what newer systems put only into backups with a password (common practice): calls, web history, networks. */
  protectedToo: boolean
}

/** Fills a backup with people, papers, pages and recordings. */
export async function addStores(
  backup: BackupBuilder,
  scratch: string,
  { items, legacy = false, laterLostBy, pictures, protectedToo }: StoreSize,
): Promise<WrittenStores> {
  const takenAt = laterLostBy ?? backup.device.takenAt
  const random = new Random(77)
  const written: WrittenStores = {}
  const add = async (category: string, domain: string, path: string, made: Made) => {
    await backup.addFile(domain, path, made.bytes)
    written[category] = made.written
  }
  const file = new StoreFile(join(scratch, 'store.db'), laterLostBy && backup.device.takenAt)
  await add(
    'contacts',
    'HomeDomain',
    'Library/AddressBook/AddressBook.sqlitedb',
    await contactStore(file, random, takenAt),
  )
  await backup.addFile(
    'HomeDomain',
    'Library/AddressBook/AddressBookImages.sqlitedb',
    await contactPictureStore(file, written.contacts?.length ?? 0),
  )
  const callPlace: [string, string] = legacy
    ? ['WirelessDomain', 'Library/CallHistory/call_history.db']
    : ['HomeDomain', 'Library/CallHistoryDB/CallHistory.storedata']
  // Made all the same, so that what follows is the same in all backups of the phone.
  const calls = await callStore(file, random, takenAt, items * 4, legacy)
  if (protectedToo) await add('calls', ...callPlace, calls)
  await add(
    'events',
    'HomeDomain',
    'Library/Calendar/Calendar.sqlitedb',
    await eventStore(file, random, takenAt, items),
  )
  await add('bookmarks', 'HomeDomain', 'Library/Safari/Bookmarks.db', await bookmarkStore(file, random, takenAt, items))
  const history = await historyStore(file, random, takenAt, items * 3)
  if (protectedToo) await add('web-history', 'HomeDomain', 'Library/Safari/History.db', history)
  if (legacy) return written
  await add(
    'notes',
    'AppDomainGroup-group.com.apple.notes',
    'NoteStore.sqlite',
    await noteStore(file, random, takenAt, items),
  )
  await add(
    'reminders',
    'AppDomainGroup-group.com.apple.reminders',
    'Container_v1/Stores/Data-local.sqlite',
    await reminderStore(file, random, takenAt, items),
  )
  await add(
    'open-tabs',
    'HomeDomain',
    'Library/Safari/BrowserState.db',
    await tabStore(file, random, takenAt, Math.ceil(items / 2)),
  )
  await add(
    'voice-memos',
    'MediaDomain',
    'Media/Recordings/CloudRecordings.db',
    await memoStore(file, backup, random, takenAt, Math.ceil(items / 3)),
  )
  await add(
    'voicemail',
    'HomeDomain',
    'Library/Voicemail/voicemail.db',
    await voicemailStore(file, backup, random, takenAt, Math.ceil(items / 3)),
  )
  written.chats = await addChats(backup, file, random, takenAt, items, pictures)
  await addNoteMedia(backup, pictures)
  if (backup.lock) {
    const { bytes } = keychainFile(backup.lock, backup.device.takenAt)
    await backup.addFile('KeychainDomain', 'keychain-backup.plist', bytes)
  }
  await addAccounts(backup, file, random)
  if (protectedToo) await addNetworks(backup)
  await addApps(backup, pictures)
  return written
}

/** Two applications' conversations, each in a layout of its own, with what hangs on them. */
async function addChats(
  backup: BackupBuilder,
  file: StoreFile,
  random: Random,
  takenAt: Date,
  items: number,
  pictures: readonly Uint8Array[],
): Promise<WrittenItem[]> {
  const group = 'AppDomainGroup-group.net.whatsapp.WhatsApp.shared'
  const names = pictures.map((_, i) => `Media/120255501/${i}.jpg`)
  for (const [i, name] of names.entries())
    await backup.addFile(group, `Message/${name}`, pictures[i] as Uint8Array, takenAt)
  const shared = await coreDataChatStore(file, random, takenAt, items * 3, names)
  await backup.addFile(group, 'ChatStorage.sqlite', shared.bytes)
  const own = await puppetryChatStore(file, random, takenAt, items)
  await backup.addFile('AppDomain-example.puppetry.chat', 'Documents/talk.sqlite', own.bytes)
  await backup.addFile('AppDomain-example.puppetry.chat', 'Documents/knots.txt', Buffer.from('bowline, clove hitch\n'))
  return [...shared.written, ...own.written]
}

/** The picture that hangs on the first note. */
async function addNoteMedia(backup: BackupBuilder, [picture]: readonly Uint8Array[]): Promise<void> {
  if (picture) await backup.addFile('AppDomainGroup-group.com.apple.notes', NOTE_PICTURE.path, picture)
}

async function addAccounts(backup: BackupBuilder, file: StoreFile, random: Random): Promise<void> {
  const bytes = await makeStore(
    file,
    `CREATE TABLE ZACCOUNT (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZACCOUNTTYPE INTEGER, ZPARENTACCOUNT INTEGER, ZDATE TIMESTAMP, ZACCOUNTDESCRIPTION VARCHAR, ZIDENTIFIER VARCHAR, ZOWNINGBUNDLEID VARCHAR, ZUSERNAME VARCHAR);
     CREATE TABLE ZACCOUNTTYPE (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZACCOUNTTYPEDESCRIPTION VARCHAR, ZIDENTIFIER VARCHAR)`,
    (database) => {
      const type = insert(database, 'ZACCOUNTTYPE', {
        Z_ENT: 3,
        Z_OPT: 1,
        ZACCOUNTTYPEDESCRIPTION: 'Mail',
        ZIDENTIFIER: 'example.mail',
      })
      for (const name of ['odile@theatre.example', 'tickets@theatre.example'])
        insert(database, 'ZACCOUNT', {
          Z_ENT: 2,
          Z_OPT: 1,
          ZACCOUNTTYPE: type,
          ZDATE: cocoa(backup.device.takenAt) - 9_000_000,
          ZACCOUNTDESCRIPTION: 'Theatre mail',
          ZIDENTIFIER: random.uuid(),
          ZUSERNAME: name,
        })
    },
  )
  await backup.addFile('HomeDomain', 'Library/Accounts/Accounts3.sqlite', bytes)
}

async function addNetworks(backup: BackupBuilder): Promise<void> {
  const networks = Object.fromEntries(
    ['Theatre van', 'Barn guests', '楽屋'].map((name, i) => [
      `wifi.network.ssid.${name}`,
      {
        SSID: Buffer.from(name),
        AddedAt: new Date(backup.device.takenAt.getTime() - (i + 9) * 86_400_000),
        JoinedByUserAt: new Date(backup.device.takenAt.getTime() - i * 86_400_000),
      },
    ]),
  )
  await backup.addFile(
    'SystemPreferencesDomain',
    'SystemConfiguration/com.apple.wifi.known-networks.plist',
    buildBinary(networks),
  )
}

async function addApps(backup: BackupBuilder, pictures: readonly Uint8Array[]): Promise<void> {
  await backup.addFile('AppDomain-example.puppetry.chat', 'Documents/welcome.txt', Buffer.from('Strings attached.\n'))
  // Its application was removed; its folder stayed.
  await backup.addFile(
    'AppDomain-example.ticket.counter',
    'Documents/counts.txt',
    Buffer.from('Saturday 84, Sunday 112\n'),
  )
  for (const [i, picture] of pictures.slice(0, 3).entries())
    await backup.addFile('AppDomain-example.ticket.counter', `Documents/posters/poster ${i + 1}.jpg`, picture)
  const local = 'AppDomainGroup-group.com.apple.FileProvider.LocalStorage'
  await backup.addFile(local, 'File Provider Storage/autumn programme.pdf', await programme())
  await backup.addFile(local, 'File Provider Storage/seat plan.txt', Buffer.from('Row A: 1 to 12\n'))
  await backup.addFile(local, 'File Provider Storage/.Trash/old seat plan.txt', Buffer.from('Row A: 1 to 10\n'))
}
