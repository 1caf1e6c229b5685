import { existsSync } from 'node:fs'
import { mkdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { BackupBuilder } from '../backup/builder.js'
import { type DemoSize, fillEarlier, fillNewest, makePhonePictures, PHONE } from '../demo/build.js'
import { type Account, Accounts, type Times } from './accounts.js'
import { CloudData } from './data.js'

/** Before the loss: everything was still there. */
export const BEFORE_THE_LOSS = new Date('2026-10-03T02:10:00Z')
const LAST_NIGHT = new Date('2026-11-24T02:10:00Z')

const SYNCS = {
  photos: true,
  contacts: true,
  calendars: true,
  reminders: true,
  bookmarks: true,
  files: true,
  messages: false,
}

export const DEMO_ACCOUNT: Account = {
  name: 'odile@theatre.example',
  password: 'curtain call',
  code: '271828',
  extraProtection: false,
  syncs: SYNCS,
}
const ACCOUNTS: Account[] = [
  DEMO_ACCOUNT,
  {
    name: 'bram@theatre.example',
    password: 'hinge and peg',
    code: '314159',
    extraProtection: true,
    syncs: { ...SYNCS, photos: false },
  },
]

const DEMO_TIMES: Times = { codeMs: 600_000, tokenMs: 900_000, lockMs: 60_000 }

export const demoAccounts = (times: Partial<Times> = {}) => new Accounts(ACCOUNTS, { ...DEMO_TIMES, ...times })

/** What the theatre's account holds; made under `folder` where it is not there yet. */
export async function openCloudData(folder: string, size: DemoSize): Promise<CloudData> {
  if (!existsSync(folder)) await buildSnapshots(folder, size)
  const data = new CloudData()
  await data.addSnapshot(join(folder, 'before'), 'snapshot-2026-10-03')
  const newest = await data.addSnapshot(join(folder, 'newest'), 'snapshot-2026-11-24')
  await data.setLibrary(newest)
  for (const [name, folder, text, days] of DELETED_FILES)
    data.addDeletedFile(name, folder, text, new Date(LAST_NIGHT.getTime() - (30 - days) * 86_400_000), days)
  return data
}

const DELETED_FILES: [name: string, folder: string, text: string, daysLeft: number][] = [
  ['Stage measures.txt', 'Tour', 'Folding stage: 3.20 m wide, 1.80 m deep, 0.45 m high. Hinges by Bram.\n', 12],
  ['Fox, third voice.txt', 'Scripts', 'FOX: Who left the lantern burning?\nOWL: You did, and so did I.\n', 21],
  ['Van inspection 2025.txt', 'Papers', 'Brakes renewed. Next visit in October.\n', 3],
]

async function buildSnapshots(folder: string, size: DemoSize): Promise<void> {
  const parts = `${folder}.part`
  await rm(parts, { recursive: true, force: true })
  await mkdir(parts, { recursive: true })
  const pictures = await makePhonePictures(folder, size)
  const before = new BackupBuilder(join(parts, 'before'), { ...PHONE, osVersion: '17.6', takenAt: BEFORE_THE_LOSS })
  await fillEarlier(before, parts, pictures, size)
  const newest = new BackupBuilder(join(parts, 'newest'), { ...PHONE, takenAt: LAST_NIGHT })
  await fillNewest(newest, parts, pictures, size, true)
  await rm(folder, { recursive: true, force: true })
  await rename(parts, folder)
}
