import { X509Certificate } from 'node:crypto'
import type { Socket } from 'node:net'
import { connect, createSecureContext, type SecureContext, type TLSSocket } from 'node:tls'
import { DeviceError } from './errors.js'
import type { PairRecord } from './pair-record.js'
import { SILENCE_MS } from './stream.js'

/** The first system version that speaks newer versions of TLS than 1.0. */
const MODERN_VERSION = 10

/**
 * Secures a connection to a device; this computer is the client and shows the pairing's root certificate. Chains of
 * nameless certificates prove nothing, so the device's own is compared byte by byte with the one it was paired with.
 * @throws DeviceError 'impostor' | 'forgotten' | 'silent'
 */
export async function secured(socket: Socket, record: PairRecord, osVersion: string | null): Promise<TLSSocket> {
  const { secureContext, paired } = identityOf(record, Number.parseInt(osVersion ?? '', 10) < MODERN_VERSION)
  return new Promise((go, fail) => {
    const stream = connect({ socket, secureContext, rejectUnauthorized: false })
    const timer = setTimeout(() => stream.destroy(new DeviceError('silent')), SILENCE_MS)
    stream.once('secureConnect', () => {
      clearTimeout(timer)
      if (stream.getPeerX509Certificate()?.raw.equals(paired.raw) !== true)
        return stream.destroy(new DeviceError('impostor'))
      stream.off('error', refused)
      stream.on('error', () => {})
      go(stream)
    })
    const refused = (cause: Error) => {
      clearTimeout(timer)
      fail(cause instanceof DeviceError ? cause : new DeviceError(reasonOf(cause), undefined, { cause }))
    }
    stream.once('error', refused)
  })
}

/** A line that breaks while it is being secured is a pulled cable; a device that refuses says so in TLS. */
const reasonOf = (cause: NodeJS.ErrnoException) => (cause.code?.startsWith('ERR_SSL') ? 'forgotten' : 'unplugged')

/** What this computer shows, and what the device must. @throws DeviceError('forgotten') for a damaged pairing */
function identityOf(record: PairRecord, old: boolean): { secureContext: SecureContext; paired: X509Certificate } {
  try {
    const secureContext = createSecureContext({
      cert: record.rootCertificate,
      key: record.rootPrivateKey,
      ...(old ? { minVersion: 'TLSv1', maxVersion: 'TLSv1', ciphers: 'DEFAULT@SECLEVEL=0' } : {}),
    })
    return { secureContext, paired: new X509Certificate(record.deviceCertificate) }
  } catch (cause) {
    throw new DeviceError('forgotten', 'What this computer keeps of the pairing is damaged. Ask for trust again.', {
      cause,
    })
  }
}
