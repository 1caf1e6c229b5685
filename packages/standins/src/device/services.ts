import type { Duplex } from 'node:stream'
import { type Dict, type ListValue, takeList, xmlFrame } from '@lumbrin/core/device/lists'
import { StreamReader } from '@lumbrin/core/device/stream'
import { isDict } from '@lumbrin/core/plist/read'
import { serveFiles } from './afc.js'
import { serveBackup } from './backup.js'
import type { StandInDevice } from './device.js'
import { serveReturns } from './returns.js'

interface Service {
  serve: (device: StandInDevice, stream: Duplex) => Promise<void>
  /** Refused while the device is locked. Which services a real one refuses is not known for sure. */
  needsUnlocked: boolean
}

const PATIENCE_MS = 600_000

/** A service that answers lists with lists until the host goes. */
const listed = (answer: (question: Dict, device: StandInDevice) => ListValue[]): Service => ({
  needsUnlocked: false,
  serve: async (device, stream) => {
    const reader = new StreamReader(stream, PATIENCE_MS)
    for (;;) {
      const question = await takeList(reader)
      if (!isDict(question)) return void stream.end()
      for (const one of answer(question, device)) await device.send(stream, xmlFrame(one))
    }
  },
})

/** What a made-up device offers behind its front door. */
export const SERVICES: Readonly<Record<string, Service>> = {
  'com.apple.afc': { serve: serveFiles, needsUnlocked: false },
  'com.apple.mobilebackup2': { serve: serveBackup, needsUnlocked: true },
  'com.apple.mobile.notification_proxy': listed(({ Command }) =>
    Command === 'Shutdown' ? [{ Command: 'ProxyDeath' }] : [],
  ),
  'com.apple.mobile.installation_proxy': listed(({ Command }) =>
    Command === 'Browse'
      ? [{ Status: 'BrowsingApplications', CurrentAmount: 1, CurrentIndex: 0, Total: 1, CurrentList: APPS }, COMPLETE]
      : [COMPLETE],
  ),
  'com.apple.mobile.diagnostics_relay': listed(({ Request }) => [
    Request === 'Goodbye' ? { Status: 'Success' } : { Status: 'Success', Diagnostics: {} },
  ]),
  'com.apple.springboardservices': listed(() => [[]]),
  'org.lumbrin.standin.returns': { serve: serveReturns, needsUnlocked: true },
}

const APPS = [
  { CFBundleIdentifier: 'example.puppetry.chat', CFBundleDisplayName: 'Puppetry Chat', CFBundleVersion: '3.2' },
]
const COMPLETE = { Status: 'Complete' }
