import { createPublicKey, generateKeyPair, type KeyObject, randomUUID } from 'node:crypto'
import { promisify } from 'node:util'
import { buildBinary } from 'plist'
import { textOf } from '../plist/read.js'
import { makeCertificate } from './certificates.js'
import { DeviceError } from './errors.js'
import type { Lockdown } from './lockdown.js'
import type { Attached, Multiplexer } from './multiplexer.js'

const makeKeys = promisify(generateKeyPair)
const KEY_BITS = 2048

/**
 * Asks the device to trust this computer, and saves the pairing where every program of this computer finds it.
 * @throws DeviceError 'trust-pending' until the question on the device's screen is answered, 'trust-refused', 'locked'
 */
export async function pair(mux: Multiplexer, device: Attached, lockdown: Lockdown): Promise<void> {
  const deviceKey = publicKeyOf(await lockdown.value('DevicePublicKey'))
  const [root, host] = await Promise.all([makeKeyPair(), makeKeyPair()])
  const sent = {
    DeviceCertificate: Buffer.from(makeCertificate(deviceKey, root.privateKey, false)),
    HostCertificate: Buffer.from(makeCertificate(host.publicKey, root.privateKey, false)),
    RootCertificate: Buffer.from(makeCertificate(root.publicKey, root.privateKey, true)),
    HostID: randomUUID().toUpperCase(),
    SystemBUID: await mux.systemId(),
  }
  const { EscrowBag } = await lockdown.request('Pair', {
    PairRecord: sent,
    ProtocolVersion: '2',
    PairingOptions: { ExtendedPairingErrors: true },
  })
  const wifi = textOf(await lockdown.value('WiFiAddress').catch(() => null))
  const record = {
    ...sent,
    HostPrivateKey: Buffer.from(privatePem(host.privateKey)),
    RootPrivateKey: Buffer.from(privatePem(root.privateKey)),
    ...(EscrowBag instanceof Uint8Array ? { EscrowBag: Buffer.from(EscrowBag) } : {}),
    ...(wifi ? { WiFiMACAddress: wifi } : {}),
  }
  await mux.savePairRecord(device, buildBinary(record))
}

const makeKeyPair = () => makeKeys('rsa', { modulusLength: KEY_BITS })
const privatePem = (key: KeyObject) => key.export({ type: 'pkcs8', format: 'pem' }).toString()

function publicKeyOf(value: unknown): KeyObject {
  try {
    if (value instanceof Uint8Array) return createPublicKey(Buffer.from(value))
  } catch (thrown) {
    throw new DeviceError('garbled', undefined, { cause: thrown })
  }
  throw new DeviceError('garbled')
}
