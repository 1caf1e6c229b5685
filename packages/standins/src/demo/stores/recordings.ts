import type { BackupBuilder } from '../../backup/builder.js'
import type { Random } from '../../random.js'
import { PEOPLE } from '../people.js'
import { type Made, shownName } from './personal.js'
import { cocoa, insert, lose, makeStore, type StoreFile, unix, type WrittenItem } from './store.js'

const RATE = 8000

/** A second of a tone: mono WAV, which every player knows. */
function tone(frequency: number): Buffer {
  const samples = Buffer.alloc(RATE)
  for (let i = 0; i < RATE; i++) samples[i] = 128 + Math.round(70 * Math.sin((2 * Math.PI * frequency * i) / RATE))
  const head = Buffer.alloc(44)
  head.write('RIFF', 0)
  head.writeUInt32LE(36 + RATE, 4)
  head.write('WAVEfmt ', 8)
  head.writeUInt32LE(16, 16)
  head.writeUInt16LE(1, 20)
  head.writeUInt16LE(1, 22)
  head.writeUInt32LE(RATE, 24)
  head.writeUInt32LE(RATE, 28)
  head.writeUInt16LE(1, 32)
  head.writeUInt16LE(8, 34)
  head.write('data', 36)
  head.writeUInt32LE(RATE, 40)
  return Buffer.concat([head, samples])
}

/** Recordings beside their store; the files of deleted ones are gone too. */
export async function memoStore(
  file: StoreFile,
  backup: BackupBuilder,
  random: Random,
  takenAt: Date,
  count: number,
): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE ZCLOUDRECORDING (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZFLAGS INTEGER, ZSHAREDFLAGS INTEGER, ZFOLDER INTEGER, ZDATE TIMESTAMP, ZDURATION FLOAT,
       ZLOCALDURATION FLOAT, ZEVICTIONDATE TIMESTAMP, ZCUSTOMLABEL VARCHAR, ZCUSTOMLABELFORSORTING VARCHAR, ZENCRYPTEDTITLE VARCHAR, ZPATH VARCHAR, ZUNIQUEID VARCHAR, ZAUDIODIGEST BLOB)`,
    (database) => {
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const uuid = random.uuid()
        const title = `Take ${i + 1}, violin`
        const fate = file.fateOf(i, true)
        const id = insert(database, 'ZCLOUDRECORDING', {
          Z_ENT: 1,
          Z_OPT: 1,
          ZFLAGS: 0,
          ZDATE: cocoa(takenAt) - (count - i) * 80_000,
          ZDURATION: 1,
          ZEVICTIONDATE: fate === 'binned' ? cocoa(takenAt) - 86_400 * (1 + (i % 20)) : null,
          ZENCRYPTEDTITLE: title,
          ZPATH: `take-${i + 1}.m4a`,
          ZUNIQUEID: uuid,
        })
        if (fate === 'deleted') lost.push(['DELETE FROM ZCLOUDRECORDING WHERE Z_PK = ?', id])
        written.push({ key: uuid, title, fate })
      }
      lose(database, lost)
    },
  )
  for (const [i, one] of written.entries())
    if (one.fate !== 'deleted')
      await backup.addFile('MediaDomain', `Media/Recordings/take-${i + 1}.m4a`, tone(220 + i * 20))
  return { bytes, written }
}

/** Voicemail with its recordings. */
export async function voicemailStore(
  file: StoreFile,
  backup: BackupBuilder,
  random: Random,
  takenAt: Date,
  count: number,
): Promise<Made> {
  const written: WrittenItem[] = []
  const kept: number[] = []
  const bytes = await makeStore(
    file,
    'CREATE TABLE voicemail (ROWID INTEGER PRIMARY KEY AUTOINCREMENT, remote_uid INTEGER, date INTEGER, token TEXT, sender TEXT, callback_num TEXT, duration INTEGER, expiration INTEGER, trashed_date INTEGER, flags INTEGER, receiver TEXT, uuid TEXT)',
    (database) => {
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const person = random.pick(PEOPLE)
        const { address } = person
        const fate = file.fateOf(i, true)
        const at = unix(takenAt) - (count - i) * 50_000
        const id = insert(database, 'voicemail', {
          remote_uid: 4000 + i,
          date: at,
          sender: address,
          callback_num: address,
          duration: random.int(3, 90),
          expiration: at + 3_000_000,
          trashed_date: fate === 'binned' ? cocoa(takenAt) - 9000 : 0,
          flags: 2,
          receiver: '+12025550142',
          uuid: random.uuid(),
        })
        if (fate === 'deleted') lost.push(['DELETE FROM voicemail WHERE ROWID = ?', id])
        else kept.push(id)
        written.push({ key: String(4000 + i), title: shownName(person), fate })
      }
      lose(database, lost)
    },
  )
  for (const id of kept) await backup.addFile('HomeDomain', `Library/Voicemail/${id}.amr`, tone(300 + id * 10))
  return { bytes, written }
}
