import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { data } from '../../playwright.config.js'
import { BACKUPS, goRoundsOf, PHONE } from './kinds.js'
import type { Round } from './rounds.js'
import { expect } from './steps.js'

const folderOf = (name: RegExp) => join(BACKUPS, readdirSync(BACKUPS).find((one) => name.test(one)) ?? '')

goRoundsOf([
  {
    name: 'a plain backup',
    backup: join(BACKUPS, PHONE),
    add: (round) => round.add('sources', { folder: join(BACKUPS, PHONE) }),
  },
  {
    name: 'an encrypted backup',
    backup: null,
    add: async (round) => {
      const source = await round.add('sources', { folder: folderOf(/-20261020-/) })
      await round.unlock(source, 'seven strings')
      return source
    },
  },
  {
    name: 'a backup in the legacy layout',
    backup: null,
    add: (round) => round.add('sources', { folder: folderOf(/^old phone/) }),
  },
  ...['snapshot-2026-10-03', 'snapshot-2026-11-24'].map((snapshot) => ({
    name: `the cloud backup ${snapshot}`,
    backup: join(data, 'cloud', snapshot.endsWith('10-03') ? 'before' : 'newest'),
    add: async (round: Round) => {
      await signIn(round)
      return round.add('cloud/sources', { snapshot })
    },
  })),
  {
    name: 'the cloud library',
    backup: null,
    add: async (round) => {
      await signIn(round)
      return round.add('cloud/sources', { library: 'now' })
    },
    brief: ['photos'],
  },
  {
    name: 'archives of the account',
    backup: null,
    add: async (round) => {
      await signIn(round)
      const state = (await (await round.request.get(`/api/jobs/${round.job}/cloud`)).json()) as {
        archives: { takenAt: string }[]
      }
      return round.add('cloud/sources', { archivesOf: state.archives[0]?.takenAt })
    },
    brief: ['contacts', 'events'],
  },
  {
    name: 'a raw image',
    backup: null,
    add: (round) => round.add('sources', { folder: rawImage() }),
    passes: ['carving'],
    brief: ['app-pictures'],
  },
])

async function signIn(round: Round): Promise<void> {
  const address = `/api/jobs/${round.job}/cloud`
  await round.request.post(address, { data: { account: 'odile@theatre.example', password: 'curtain call' } })
  await round.request.post(address, { data: { code: '271828' } })
  await expect.poll(async () => ((await (await round.request.get(address)).json()) as { step: string }).step).toBe('in')
}

/** Bytes without names that hold some pictures of the phone. */
function rawImage(): string {
  const file = join(data, 'bytes without names.img')
  const shelf = join(BACKUPS, PHONE)
  const pictures: Buffer[] = []
  for (const name of readdirSync(shelf).filter((one) => /^[0-9a-f]{2}$/.test(one)))
    for (const id of readdirSync(join(shelf, name))) {
      const bytes = readFileSync(join(shelf, name, id))
      if (bytes.subarray(0, 3).equals(Buffer.from([0xff, 0xd8, 0xff])) && pictures.length < 12) pictures.push(bytes)
    }
  writeFileSync(file, Buffer.concat(pictures.flatMap((picture) => [Buffer.alloc(4096), picture, Buffer.alloc(512)])))
  return file
}
