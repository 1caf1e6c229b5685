import { existsSync, readFileSync } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { type AddressInfo, connect, createServer } from 'node:net'
import { join } from 'node:path'
import { describe, expect, inject, it, onTestFinished } from 'vitest'
import { attachPhone, referenceTool, TEST_UDID } from '../../../../tests/setup/device.js'
import { all, demoBackup, scratchFolder, warnings } from '../../../../tests/setup/fixtures.js'
import { openBackup } from '../backup/open.js'
import { openSource } from '../collected/open.js'
import { AfcClient } from './afc.js'
import { DeviceCollector } from './collector.js'
import { describeDevice } from './describe.js'
import { Lockdown } from './lockdown.js'
import { Multiplexer } from './multiplexer.js'
import { pair } from './pairing.js'

const demo = () => inject('demoFolder')

async function pairedPhone() {
  const phone = await attachPhone(demo())
  const [device] = await phone.mux.devices()
  if (!device) throw new Error('no device')
  const lockdown = await Lockdown.open(phone.mux, device)
  await pair(phone.mux, device, lockdown)
  lockdown.close()
  return { ...phone, attached: device }
}

// The independent side: libimobiledevice 1.3 and its tools, from Debian's packages.
describe('the stand-in and the reference tools', () => {
  it('list, describe and pair', async () => {
    const { address } = await attachPhone(demo())
    expect(await referenceTool(address, 'idevice_id', '-l')).toEqual({ code: 0, said: `${TEST_UDID}\n` })
    const info = await referenceTool(address, 'ideviceinfo', '-s')
    expect(info.said).toContain('ProductType: iPhone14,5')
    expect((await referenceTool(address, 'idevicepair', 'pair')).said).toContain('SUCCESS')
    expect((await referenceTool(address, 'idevicepair', 'validate')).said).toContain('SUCCESS')
    expect((await referenceTool(address, 'ideviceinfo', '-k', 'PasswordProtected')).said.trim()).toBe('false')
  })

  it.each([
    ['asking', { trust: 'asking' }, 'trust dialog'],
    ['refusing', { trust: 'no' }, 'denied the trust dialog'],
    ['locked', { locked: true }, 'passcode is set'],
  ] as const)('agree on a device that is %s', async (_, switches, words) => {
    const { address } = await attachPhone(demo(), switches)
    const { code, said } = await referenceTool(address, 'idevicepair', 'pair')
    expect(code).toBe(1)
    expect(said).toContain(words)
  })

  it('make a backup that equals what is on the device, and our pairing opens the door for them', async () => {
    const { address } = await pairedPhone()
    const folder = scratchFolder()
    const { said } = await referenceTool(address, 'idevicebackup2', 'backup', '--full', folder)
    expect(said).toContain('Backup Successful')
    const source = demoBackup(demo()).folder
    const tree = await openBackup(source, () => {})
    for (const entry of tree.entries())
      if (entry.kind === 'file' && existsSync(join(source, entry.id.slice(0, 2), entry.id)))
        expect(
          readFileSync(join(folder, TEST_UDID, entry.id.slice(0, 2), entry.id)).equals(
            readFileSync(join(source, entry.id.slice(0, 2), entry.id)),
          ),
        ).toBe(true)
    expect((await openBackup(join(folder, TEST_UDID), () => {})).fileCount).toBe(tree.fileCount)
  })
})

describe('our client', () => {
  it('uses the pairing that the reference tools made', async () => {
    const { address, mux } = await attachPhone(demo())
    await referenceTool(address, 'idevicepair', 'pair')
    const [device] = await mux.devices()
    if (!device) throw new Error('no device')
    expect(await describeDevice(mux, device)).toMatchObject({ state: 'ready', name: 'Odile’s phone', battery: 0.64 })
  })

  it.each([
    ['untrusted', {}, 'untrusted'],
    ['erased', { erased: true }, 'erased'],
    ['silent', { mode: 'stuck' }, 'silent'],
  ] as const)('names a device that is %s', async (_, switches, state) => {
    const { mux } = await attachPhone(demo(), switches)
    const [device] = await mux.devices()
    expect(device && (await describeDevice(mux, device)).state).toBe(state)
  })

  it('tells a locked device that trusted it before, and one that forgot it', async () => {
    const { device, mux, attached } = await pairedPhone()
    device.set({ locked: true })
    expect((await describeDevice(mux, attached)).state).toBe('locked')
    device.set({ locked: false })
    device.pairings.clear()
    expect((await describeDevice(mux, attached)).state).toBe('forgotten')
  })

  it.each([
    ['asking', { trust: 'asking' }, 'trust-pending'],
    ['refusing', { trust: 'no' }, 'trust-refused'],
    ['locked', { locked: true }, 'locked'],
  ] as const)('says why a device that is %s does not pair', async (_, switches, code) => {
    const { mux } = await attachPhone(demo(), switches)
    const [device] = await mux.devices()
    if (!device) throw new Error('no device')
    await expect(pair(mux, device, await Lockdown.open(mux, device))).rejects.toMatchObject({ code })
  })

  it('refuses another device that answers in the place of the paired one', async () => {
    const { device, mux, attached } = await pairedPhone()
    const other = await attachPhone(demo())
    const pairing = [...device.pairings]
    for (const [host, one] of pairing) other.device.pairings.set(host, one)
    await other.mux.savePairRecord(attached, (await mux.pairRecord(TEST_UDID)) as Uint8Array)
    const [stranger] = await other.mux.devices()
    if (!stranger) throw new Error('no device')
    await expect(Lockdown.session(other.mux, stranger)).rejects.toMatchObject({ name: 'DeviceError' })
  })

  it('reads files of the media area from any offset', async () => {
    const { mux, attached, files } = await pairedPhone()
    const lockdown = await Lockdown.session(mux, attached)
    const afc = new AfcClient(await lockdown.service('com.apple.afc'))
    const entries = await all(afc.walk('/DCIM'))
    const picture = entries.find((entry) => entry.kind === 'file')
    if (!picture) throw new Error('no picture')
    const file = files.list.find(({ path }) => path === `Media${picture.path}`)
    const bytes = Buffer.concat(await all(files.content(file as never)))
    expect(Buffer.concat(await all(afc.read(picture.path)))).toEqual(bytes)
    expect(Buffer.concat(await all(afc.read(picture.path, 1000)))).toEqual(bytes.subarray(1000))
    expect(await afc.stat('/DCIM/none')).toBeUndefined()
    await expect(all(afc.read('/none'))).rejects.toMatchObject({ code: 'refused' })
    lockdown.close()
  })
})

describe('a device as a source', () => {
  async function collector(phone: Awaited<ReturnType<typeof pairedPhone>>, folder = join(scratchFolder(), 'phone')) {
    const stop = new AbortController()
    const { list, report } = warnings()
    const made = new DeviceCollector(phone.mux, TEST_UDID, { folder, report, progress: () => {}, signal: stop.signal })
    return { made, folder, warned: list, stop }
  }

  it('gives the same files as its backup, media one by one and all else by backup', async () => {
    const phone = await pairedPhone()
    const { made, folder, warned } = await collector(phone)
    await made.begin(true)
    const photos = [{ domain: 'CameraRollDomain', path: 'Media/PhotoData/Photos.sqlite' }]
    expect(await made.prepare(photos, () => true)).toBe(false)
    expect(await made.prepare([{ domain: 'HomeDomain', path: 'Library/SMS/sms.db' }], () => true)).toBe(true)
    const tree = await openSource(folder, () => {}, {}, made.fetch)
    const expected = await openBackup(demoBackup(demo()).folder, () => {})
    expect(tree.info).toMatchObject({ kind: 'device', deviceName: 'Odile’s phone', encrypted: false })
    for (const entry of expected.entries()) {
      const wanted = entry.kind === 'file' ? await expected.open(entry) : undefined
      const found = tree.find(entry.domain, entry.path)
      const got = found && (await tree.open(found))
      expect(got?.size, entry.path).toBe(wanted?.size)
      if (wanted && got) expect(Buffer.compare(await got.read(0, got.size), await wanted.read(0, wanted.size))).toBe(0)
      await Promise.all([wanted?.close(), got?.close()])
    }
    expect(warned).toEqual([])
    await made.close()
    const again = await openSource(folder, () => {})
    expect(again.fileCount).toBe(tree.fileCount)
  })

  it('keeps of a backup only what was asked for, and does not receive it twice', async () => {
    const phone = await pairedPhone()
    const { made, folder } = await collector(phone)
    await made.begin(true)
    const sms = { domain: 'HomeDomain', path: 'Library/SMS/sms.db' }
    await made.prepare([sms], ({ path }) => path === sms.path)
    const tree = await openSource(folder, () => {})
    const held: string[] = []
    for (const entry of tree.entries()) if (await tree.storedBytes(entry)) held.push(entry.path)
    expect(held).toEqual([sms.path])
    await made.close()
    const before = phone.device.sentBytes
    const later = await collector(phone, folder)
    await later.made.begin(true)
    await later.made.prepare([sms], () => true)
    expect(phone.device.sentBytes - before).toBeGreaterThan(100_000)
    const between = phone.device.sentBytes
    await later.made.close()
    const last = await collector(phone, folder)
    await last.made.begin(true)
    await last.made.prepare([sms], () => true)
    // Media are fetched file by file, so that what a backup sends of them is never kept.
    const whole = await openBackup(demoBackup(demo()).folder, () => {})
    const media = [...whole.entries()].filter(({ domain }) => domain === 'CameraRollDomain')
    const mediaBytes = media.reduce((sum, { size }) => sum + (size ?? 0), 0)
    expect(phone.device.sentBytes - between - mediaBytes).toBeLessThan(700_000)
    await last.made.close()
  })

  it('goes on where it was when the cable was pulled, and keeps nothing torn', async () => {
    const phone = await pairedPhone()
    phone.device.set({ cableSpeed: 3_000_000 })
    const folder = join(scratchFolder(), 'phone')
    for (let pull = 0; pull < 4; pull++) {
      const { made } = await collector(phone, folder)
      setTimeout(() => phone.device.set({ plugged: false }), 100 + pull * 180)
      await expect(
        (async () => {
          await made.begin(true)
          await made.prepare([], () => true)
        })(),
      ).rejects.toMatchObject({ name: 'DeviceError', code: 'unplugged' })
      await made.close()
      phone.device.set({ plugged: true })
    }
    phone.device.set({ cableSpeed: 0 })
    const { made } = await collector(phone, folder)
    await made.begin(true)
    await made.prepare([], () => true)
    const source = demoBackup(demo()).folder
    const backup = join(folder, 'backup', TEST_UDID)
    for (const shelf of (await readdir(backup)).filter((name) => /^[0-9a-f]{2}$/.test(name)))
      for (const name of await readdir(join(backup, shelf)))
        expect(readFileSync(join(backup, shelf, name)).equals(readFileSync(join(source, shelf, name))), name).toBe(true)
    await made.close()
  })
})

/** A line between client and device on which bytes go wrong: from `at` on they are cut off, turned, or made up. */
async function badLine(port: number, at: number, harm: 'cut' | 'flip' | 'garbage'): Promise<Multiplexer> {
  const server = createServer((near) => {
    const far = connect(port, '127.0.0.1')
    let passed = 0
    for (const socket of [near, far]) socket.on('error', () => {})
    near.pipe(far)
    near.on('close', () => far.destroy())
    far.on('close', () => near.destroy())
    far.on('data', (bytes: Buffer) => {
      const from = Math.max(0, at - passed)
      passed += bytes.byteLength
      if (from >= bytes.byteLength) return void near.write(bytes)
      if (harm === 'cut') return void near.end(bytes.subarray(0, from))
      if (harm === 'flip') bytes[from] = (bytes[from] as number) ^ 0x55
      else bytes.fill(0xa7, from)
      near.write(bytes)
    })
  })
  await new Promise<void>((go) => server.listen(0, '127.0.0.1', go))
  onTestFinished(() => void server.close())
  return new Multiplexer({ host: '127.0.0.1', port: (server.address() as AddressInfo).port }, 1500)
}

describe('a line on which bytes go wrong', () => {
  const harms = ['cut', 'flip', 'garbage'] as const
  it.each(harms)('%s: every read ends in a clear error or in what is right', async (harm) => {
    const { address, mux } = await pairedPhone()
    const sane = await describeDevice(mux, (await mux.devices())[0] as never)
    for (const at of [0, 5, 17, 300, 700, 1100, 1500, 2500, 5000, 9000]) {
      const bad = await badLine(address.port, at, harm)
      const outcome = await (async () => {
        const [device] = await bad.devices()
        if (!device) return 'nothing there'
        const lockdown = await Lockdown.session(bad, device)
        const afc = new AfcClient(await lockdown.service('com.apple.afc'), 1500)
        const names = await afc.list('/DCIM/100APPLE')
        lockdown.close()
        return names.length
      })().catch((thrown: unknown) => thrown)
      if (outcome instanceof Error) expect(outcome, `${harm} at ${at}`).toMatchObject({ name: 'DeviceError' })
    }
    expect(sane.state).toBe('ready')
  })
})
