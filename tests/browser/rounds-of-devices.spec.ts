import { join } from 'node:path'
import type { APIRequestContext } from '@playwright/test'
import type { Bay } from '../../apps/workbench/src/domain/bay.js'
import { data } from '../../playwright.config.js'
import { goRoundsOf, PHONE } from './kinds.js'
import { expect } from './steps.js'

// Devices keep the state that hands gave them: the bay is looked at in another file, before.
const TABLET = '00008101-000E51A43C08001E'
const LOCKED = '00008120-00162D9A0C93C01E'
const REVIVED = '00008020-001A4D660A88002E'

goRoundsOf([
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
])

const look = async (request: APIRequestContext) => (await (await request.get('/api/bay')).json()) as Bay

/** What hands would do with a device. */
async function press(request: APIRequestContext, udid: string, switches: object): Promise<void> {
  const { controls } = await look(request)
  const headers = { origin: new URL(controls ?? '').origin }
  await request.post(`${controls}devices/${udid}`.replace(/([^:/])devices/, '$1/devices'), { data: switches, headers })
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
    .poll(async () => (await look(request)).devices.some(({ udid }) => udid === REVIVED), { timeout: 240_000 })
    .toBe(true)
}
