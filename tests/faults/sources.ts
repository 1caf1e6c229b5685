import { join } from 'node:path'
import { BackupBuilder, type BackupShape } from '@lumbrin/standins/backup/builder'
import { databaseOf } from '../setup/fixtures.js'
import type { FaultSource } from './whole-job.js'

const PASSWORD = 'seven strings'

/** Pictures are told from each other by their bytes; that they show nothing is no matter here. */
const picture = (n: number) =>
  Buffer.concat([Buffer.from([0xff, 0xd8, 0xff, 0xe0]), Buffer.from(`picture ${n} `.repeat(900))])

/** Some people, some of whom were deleted, so that there are leftovers too. */
const book = (first: number, last: number) => {
  const people = Array.from({ length: last - first }, (_, i) => first + i)
  const rows = people.map(
    (n) => `(${n}, 'Puppeteer', 'of the ${n}th string', 'guid-${n}', 'keeps the strings in a box ${n}')`,
  )
  return databaseOf(
    `CREATE TABLE ABPerson (ROWID INTEGER PRIMARY KEY, First TEXT, Last TEXT, guid TEXT, Note TEXT);
     CREATE TABLE ABMultiValue (UID INTEGER PRIMARY KEY, record_id INTEGER, property INTEGER, label INTEGER, value TEXT);
     INSERT INTO ABPerson VALUES ${rows.join(', ')};
     DELETE FROM ABPerson WHERE ROWID % 4 = 1;`,
  )
}

async function backup(folder: string, day: number, shape: BackupShape): Promise<void> {
  const builder = new BackupBuilder(
    folder,
    {
      name: 'Puppet phone',
      productType: 'iPhone14,5',
      osVersion: '17.6',
      udid: '00008110-000A55000155801E',
      takenAt: new Date(Date.UTC(2026, 9, day)),
    },
    shape,
  )
  await builder.addFile('HomeDomain', 'Library/AddressBook/AddressBook.sqlitedb', book(day, day + 12))
  for (let n = day; n < day + 3; n++)
    await builder.addFile('CameraRollDomain', `Media/DCIM/100APPLE/IMG_00${n}.JPG`, picture(n))
  await builder.finish()
}

/** Three states of one phone: a plain backup, an encrypted one, one in the legacy layout. */
export async function faultSources(folder: string): Promise<FaultSource[]> {
  const place = (name: string) => join(folder, name)
  await backup(place('plain'), 12, {})
  await backup(place('locked'), 10, { lock: { password: PASSWORD, firstRounds: 50, rounds: 100 } })
  await backup(place('legacy'), 8, { layout: 'legacy' })
  return [
    { folder: place('plain'), password: null },
    { folder: place('locked'), password: PASSWORD },
    { folder: place('legacy'), password: null },
  ]
}
