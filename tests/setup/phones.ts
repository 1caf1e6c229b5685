import { join } from 'node:path'
import { Lockdown } from '@lumbrin/core/device/lockdown'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { pair } from '@lumbrin/core/device/pairing'
import { StandInDevice } from '@lumbrin/standins/device/device'
import { BackupFiles } from '@lumbrin/standins/device/files'
import { StandInMultiplexer } from '@lumbrin/standins/device/multiplexer'
import { onTestFinished } from 'vitest'
import { scratchFolder } from './fixtures.js'
import { type Shelved, shelve } from './shelf.js'

/** Made-up phones that trust this computer, none of them on the cable. */
export async function phones(count: number): Promise<{ phone: StandInDevice; backup: Shelved }[]> {
  const folder = scratchFolder()
  const bus = new StandInMultiplexer()
  await bus.listen({ host: '127.0.0.1', port: 0 })
  process.env.USBMUXD_SOCKET_ADDRESS = `127.0.0.1:${bus.port}`
  onTestFinished(() => {
    delete process.env.USBMUXD_SOCKET_ADDRESS
    return bus.close()
  })
  const made: { phone: StandInDevice; backup: Shelved }[] = []
  for (let device = 0; device < count; device++) {
    const takenAt = new Date('2026-11-20T10:00:00Z')
    const backup = await shelve({ folder: join(folder, String(device)), device, kind: 'plain', harm: null, takenAt })
    const { udid, deviceName: name } = backup
    const identity = { udid, name, productType: 'iPhone14,5', osVersion: '17.6', capacity: 64e9 }
    const phone = new StandInDevice(identity, await BackupFiles.open(backup.folder), {})
    bus.add(phone)
    made.push({ phone, backup })
  }
  const mux = new Multiplexer({ host: '127.0.0.1', port: bus.port }, 3000)
  for (const attached of await mux.devices()) await pair(mux, attached, await Lockdown.open(mux, attached))
  for (const { phone } of made) phone.set({ plugged: false })
  return made
}
