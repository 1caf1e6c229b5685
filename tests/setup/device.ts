import { execFile } from 'node:child_process'
import { cp } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { Multiplexer } from '@lumbrin/core/device/multiplexer'
import { StandInDevice, type Switches } from '@lumbrin/standins/device/device'
import { BackupFiles } from '@lumbrin/standins/device/files'
import { StandInMultiplexer } from '@lumbrin/standins/device/multiplexer'
import { onTestFinished } from 'vitest'
import { demoBackup, scratchFolder } from './fixtures.js'

export const TEST_UDID = '00008110-0007A5C22E8B401E'

/** A made-up phone on the cable, with what the demo's newest backup holds. */
export async function attachPhone(demoFolder: string, switches: Partial<Switches> = {}) {
  const folder = join(scratchFolder(), 'phone')
  await cp(demoBackup(demoFolder).folder, folder, { recursive: true, preserveTimestamps: true })
  const files = await BackupFiles.open(folder)
  const identity = {
    udid: TEST_UDID,
    name: 'Odile’s phone',
    productType: 'iPhone14,5',
    osVersion: '17.6.1',
    capacity: 64e9,
  }
  const device = new StandInDevice(identity, files, switches)
  const bus = new StandInMultiplexer()
  bus.add(device)
  await bus.listen({ host: '127.0.0.1', port: 0 })
  onTestFinished(() => bus.close())
  const address = { host: '127.0.0.1', port: bus.port }
  return { device, bus, files, address, mux: new Multiplexer(address, 3000) }
}

const run = promisify(execFile)

/** Runs one of the reference library's tools against made-up devices; gives its words and its exit code. */
export async function referenceTool(
  { port }: { port: number },
  command: string,
  ...words: string[]
): Promise<{ code: number; said: string }> {
  const env = { ...process.env, USBMUXD_SOCKET_ADDRESS: `127.0.0.1:${port}` }
  try {
    const { stdout, stderr } = await run(command, words, { env, timeout: 240_000, maxBuffer: 64 << 20 })
    return { code: 0, said: stdout + stderr }
  } catch (thrown) {
    const { code, stdout, stderr } = thrown as { code: number; stdout: string; stderr: string }
    return { code, said: `${stdout}${stderr}` }
  }
}
