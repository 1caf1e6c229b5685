import { FormatError } from '../io/errors.js'
import { parsePlistDict, textOf } from '../plist/read.js'
import type { Multiplexer } from './multiplexer.js'

/** What this computer keeps of a pairing; PEM texts. It opens the device, so it never leaves the multiplexer's care. */
export interface PairRecord {
  hostId: string
  systemId: string
  deviceCertificate: string
  rootCertificate: string
  rootPrivateKey: string
  /** Opens services while the device is locked; undefined: the device gave none. */
  escrowBag: Uint8Array | undefined
}

/** The pairing of this computer with a device; undefined: there is none, or what is kept of it is damaged. */
export async function findPairRecord(mux: Multiplexer, udid: string): Promise<PairRecord | undefined> {
  const bytes = await mux.pairRecord(udid)
  if (!bytes) return undefined
  try {
    const record = parsePlistDict(bytes)
    const text = (key: string): string => {
      const value = record[key]
      return value instanceof Uint8Array ? Buffer.from(value).toString('utf8') : (textOf(value) ?? '')
    }
    const parsed = {
      hostId: text('HostID'),
      systemId: text('SystemBUID'),
      deviceCertificate: text('DeviceCertificate'),
      rootCertificate: text('RootCertificate'),
      rootPrivateKey: text('RootPrivateKey'),
      escrowBag: record.EscrowBag instanceof Uint8Array ? record.EscrowBag : undefined,
    }
    return parsed.hostId && parsed.deviceCertificate && parsed.rootPrivateKey ? parsed : undefined
  } catch (thrown) {
    if (thrown instanceof FormatError) return undefined
    throw thrown
  }
}
