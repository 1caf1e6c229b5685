import type { Random } from '../../random.js'
import { PEOPLE } from '../people.js'
import { smallTalk } from '../talk.js'
import type { Made } from './personal.js'
import { cocoa, insert, lose, makeStore, type StoreFile, type WrittenItem } from './store.js'

const HOUR_S = 3600

/** Conversations in the layout that many applications share, with a group, pictures and a message that was withdrawn. */
export async function coreDataChatStore(
  file: StoreFile,
  random: Random,
  takenAt: Date,
  count: number,
  pictures: readonly string[],
): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE ZWAMESSAGE (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZFLAGS INTEGER, ZGROUPEVENTTYPE INTEGER, ZISFROMME INTEGER, ZMESSAGESTATUS INTEGER, ZMESSAGETYPE INTEGER,
       ZSORT INTEGER, ZSTARRED INTEGER, ZCHATSESSION INTEGER, ZGROUPMEMBER INTEGER, ZMEDIAITEM INTEGER, ZPARENTMESSAGE INTEGER, ZMESSAGEDATE TIMESTAMP, ZSENTDATE TIMESTAMP, ZFROMJID VARCHAR,
       ZTOJID VARCHAR, ZPUSHNAME VARCHAR, ZSTANZAID VARCHAR, ZTEXT VARCHAR);
     CREATE TABLE ZWACHATSESSION (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZARCHIVED INTEGER, ZHIDDEN INTEGER, ZREMOVED INTEGER, ZSESSIONTYPE INTEGER, ZMESSAGECOUNTER INTEGER,
       ZLASTMESSAGEDATE TIMESTAMP, ZCONTACTJID VARCHAR, ZPARTNERNAME VARCHAR);
     CREATE TABLE ZWAMEDIAITEM (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZFILESIZE INTEGER, ZMESSAGE INTEGER, ZMEDIALOCALPATH VARCHAR, ZTITLE VARCHAR, ZMEDIAKEY BLOB);
     CREATE TABLE ZWAGROUPMEMBER (Z_PK INTEGER PRIMARY KEY, Z_ENT INTEGER, Z_OPT INTEGER, ZCHATSESSION INTEGER, ZISACTIVE INTEGER, ZMEMBERJID VARCHAR, ZCONTACTNAME VARCHAR)`,
    (database) => {
      const address = (i: number) => `${PEOPLE[i]?.address.slice(1)}@s.whatsapp.net`
      const sessions = [1, 2, 9].map((i) =>
        insert(database, 'ZWACHATSESSION', {
          Z_ENT: 4,
          ZSESSIONTYPE: 0,
          ZCONTACTJID: address(i),
          ZPARTNERNAME: PEOPLE[i]?.name,
        }),
      )
      const group = insert(database, 'ZWACHATSESSION', {
        Z_ENT: 4,
        ZSESSIONTYPE: 1,
        ZCONTACTJID: '120255501-77@g.us',
        ZPARTNERNAME: 'Load-in 🎪',
      })
      const members = [1, 2, 9].map((i) =>
        insert(database, 'ZWAGROUPMEMBER', {
          Z_ENT: 6,
          ZCHATSESSION: group,
          ZISACTIVE: 1,
          ZMEMBERJID: address(i),
          ZCONTACTNAME: PEOPLE[i]?.name,
        }),
      )
      const lost: [string, number][] = []
      for (let i = 0; i < count; i++) {
        const grouped = i % 4 === 3
        const who = i % 3
        const mine = random.chance(0.4)
        const uid = random.uuid()
        const text = i === 5 ? null : smallTalk(random)
        const id = insert(database, 'ZWAMESSAGE', {
          Z_ENT: 9,
          Z_OPT: 1,
          ZISFROMME: mine ? 1 : 0,
          ZMESSAGETYPE: i === 5 ? 14 : 0,
          ZSORT: i,
          ZCHATSESSION: grouped ? group : sessions[who],
          ZGROUPMEMBER: grouped && !mine ? members[who] : null,
          ZMESSAGEDATE: cocoa(takenAt) - (count - i) * 5 * HOUR_S,
          ZFROMJID: mine ? null : grouped ? '120255501-77@g.us' : address([1, 2, 9][who] as number),
          ZSTANZAID: uid,
          ZTEXT: text,
        })
        const fate = file.fateOf(i)
        const picture = fate === 'live' ? pictures[i] : undefined
        if (picture) {
          const media = insert(database, 'ZWAMEDIAITEM', { Z_ENT: 8, ZMESSAGE: id, ZMEDIALOCALPATH: picture })
          database.run('UPDATE ZWAMESSAGE SET ZMEDIAITEM = ?, ZMESSAGETYPE = 1 WHERE Z_PK = ?', [media, id])
        }
        if (fate === 'deleted') lost.push(['DELETE FROM ZWAMESSAGE WHERE Z_PK = ?', id])
        written.push({ key: uid, title: text ?? '', fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}

/** The theatre's own chat, whose times are milliseconds since 1970 and whose conversations have words for keys. */
export async function puppetryChatStore(file: StoreFile, random: Random, takenAt: Date, count: number): Promise<Made> {
  const written: WrittenItem[] = []
  const bytes = await makeStore(
    file,
    `CREATE TABLE room (key TEXT PRIMARY KEY, title TEXT);
     CREATE TABLE guest (id INTEGER PRIMARY KEY, room TEXT, handle TEXT, name TEXT);
     CREATE TABLE line (id INTEGER PRIMARY KEY, uid TEXT NOT NULL UNIQUE, room TEXT, author TEXT, mine INTEGER, said TEXT, at INTEGER, answers TEXT, file TEXT)`,
    (database) => {
      for (const [key, title] of [
        ['strings', 'Strings and knots'],
        ['voices', 'صوت الدمى'],
      ])
        insert(database, 'room', { key, title })
      for (const [i, handle] of ['ilse', 'casimir', 'anouk'].entries())
        insert(database, 'guest', { room: i < 2 ? 'strings' : 'voices', handle, name: `${handle} of the theatre` })
      const lost: [string, number][] = []
      let before: string | null = null
      for (let i = 0; i < count; i++) {
        const uid = random.uuid()
        const said = smallTalk(random)
        const mine = i % 3 === 0
        const id = insert(database, 'line', {
          uid,
          room: i % 5 === 4 ? 'voices' : 'strings',
          author: mine ? null : i % 5 === 4 ? 'anouk' : ['ilse', 'casimir'][i % 2],
          mine: mine ? 1 : 0,
          said,
          at: takenAt.getTime() - (count - i) * 7 * HOUR_S * 1000,
          answers: i % 6 === 1 ? before : null,
          file: i === 2 ? 'knots.txt' : null,
        })
        before = uid
        const fate = file.fateOf(i)
        if (fate === 'deleted') lost.push(['DELETE FROM line WHERE id = ?', id])
        written.push({ key: uid, title: said, fate })
      }
      lose(database, lost)
    },
  )
  return { bytes, written }
}
