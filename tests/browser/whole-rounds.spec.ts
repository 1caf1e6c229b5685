import { readdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import type { CategoryId } from '@lumbrin/core/categories/types'
import type { APIRequestContext } from '@playwright/test'
import type { Bay } from '../../apps/workbench/src/services/bay.js'
import { data } from '../../playwright.config.js'
import { Round } from './rounds.js'
import { expect, test } from './steps.js'

const BRIEF: CategoryId[] = ['photos', 'messages']
const PHONE = '00008110-0007A5C22E8B401E'
const TABLET = '00008101-000E51A43C08001E'
const LOCKED = '00008120-00162D9A0C93C01E'
const REVIVED = '00008020-001A4D660A88002E'
const backups = join(data, 'sources/Backup')

/** Every kind of source that the demo ships: how it is added, and where what it shows lies without a lock. */
interface Kind {
  name: string
  /** Null: nothing to compare contents with. */
  backup: string | null
  add(round: Round): Promise<number>
  passes?: string[]
  /** What a job with the categories of the demo's brief reads, where the source holds others. */
  brief?: CategoryId[]
}

const folderOf = (name: RegExp) => join(backups, readdirSync(backups).find((one) => name.test(one)) ?? '')

const KINDS: Kind[] = [
  {
    name: 'a plain backup',
    backup: join(backups, PHONE),
    add: (round) => round.add('sources', { folder: join(backups, PHONE) }),
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
  {
    name: 'the trusted phone',
    backup: join(data, 'devices', PHONE),
    add: (round) => round.add('devices', { udid: PHONE }),
  },
  {
    name: 'the tablet, once it trusts',
    backup: join(data, 'devices', TABLET),
    add: async (round) => {
      await trust(round.request, TABLET)
      return round.add('devices', { udid: TABLET })
    },
  },
  {
    name: 'the locked phone, once it is unlocked',
    backup: join(data, 'devices', LOCKED),
    add: async (round) => {
      const bay = await look(round.request)
      if (bay.devices.find(({ udid }) => udid === LOCKED)?.state !== 'ready') {
        const refused = await round.request.post(`/api/jobs/${round.job}/devices`, { data: { udid: LOCKED } })
        expect(refused.status()).toBe(409)
        await press(round.request, LOCKED, { locked: false })
        await trust(round.request, LOCKED)
      }
      return round.add('devices', { udid: LOCKED })
    },
  },
  {
    name: 'the phone that was brought back from recovery',
    backup: join(data, 'devices', REVIVED),
    add: async (round) => {
      await revive(round.request)
      await trust(round.request, REVIVED)
      return round.add('devices', { udid: REVIVED })
    },
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
]

for (const { name, backup, add, passes = [], brief = BRIEF } of KINDS)
  for (const [scope, categories] of [
    ['what the brief asks for', brief],
    ['every category', []],
  ] as const)
    test(`the whole round of ${name}: ${scope}`, async ({ request, baseURL }) => {
      const round = await Round.begin(request, baseURL ?? '', `Round: ${name}`, [...categories])
      const source = await add(round)
      const state = await round.read(source, categories, passes)
      expect(state).toBe('done')
      const lines = await round.findings()
      expect(lines.length).toBeGreaterThan(0)
      const sums = await round.openAll(lines, backup)
      await round.handOver(lines, sums)
    })

const look = async (request: APIRequestContext) => (await (await request.get('/api/bay')).json()) as Bay

/** What hands would do with a device. */
async function press(request: APIRequestContext, udid: string, switches: object): Promise<void> {
  const { controls } = await look(request)
  await request.post(`${controls}devices/${udid}`.replace(/([^:/])devices/, '$1/devices'), { data: switches })
}

/** Has a device trust this computer, as its owner would on its screen. */
async function trust(request: APIRequestContext, udid: string): Promise<void> {
  const isReady = async () => (await look(request)).devices.find((one) => one.udid === udid)?.state === 'ready'
  if (await isReady()) return
  await request.post(`/api/bay/${udid}/trust`, { data: {} })
  await press(request, udid, { trust: 'yes' })
  await request.post(`/api/bay/${udid}/trust`, { data: {} })
  await expect.poll(isReady).toBe(true)
}

/** Installs the system of the phone that waits in recovery anew, and keeps what is on it. */
async function revive(request: APIRequestContext): Promise<void> {
  const { recovering } = await look(request)
  const waiting = recovering.find((one) => one.udid === REVIVED)
  if (waiting) {
    const image = waiting.images[0]?.id ?? ''
    await request.post(`/api/bay/${REVIVED}/install`, { data: { image, keep: true } })
  }
  await expect
    .poll(async () => (await look(request)).devices.some(({ udid }) => udid === REVIVED), { timeout: 120_000 })
    .toBe(true)
}

async function signIn(round: Round): Promise<void> {
  const address = `/api/jobs/${round.job}/cloud`
  await round.request.post(address, { data: { account: 'odile@theatre.example', password: 'curtain call' } })
  await round.request.post(address, { data: { code: '271828' } })
  await expect.poll(async () => ((await (await round.request.get(address)).json()) as { step: string }).step).toBe('in')
}

/** Bytes without names that hold some pictures of the phone. */
function rawImage(): string {
  const file = join(data, 'bytes without names.img')
  const shelf = join(backups, PHONE)
  const pictures: Buffer[] = []
  for (const name of readdirSync(shelf).filter((one) => /^[0-9a-f]{2}$/.test(one)))
    for (const id of readdirSync(join(shelf, name))) {
      const bytes = readFileSync(join(shelf, name, id))
      if (bytes.subarray(0, 3).equals(Buffer.from([0xff, 0xd8, 0xff])) && pictures.length < 12) pictures.push(bytes)
    }
  writeFileSync(file, Buffer.concat(pictures.flatMap((picture) => [Buffer.alloc(4096), picture, Buffer.alloc(512)])))
  return file
}
