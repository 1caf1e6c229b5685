import { createHash, type KeyObject, sign } from 'node:crypto'
import {
  Boolean as Asn1Boolean,
  BitString,
  Constructed,
  fromBER,
  Integer,
  Null,
  ObjectIdentifier,
  OctetString,
  Sequence,
  UTCTime,
} from 'asn1js'

// Object identifiers of RFC 8017 (signature) and RFC 5280, sections 4.2.1.2, 4.2.1.3 and 4.2.1.9 (extensions).
const OID = {
  sha256WithRsa: '1.2.840.113549.1.1.11',
  subjectKeyId: '2.5.29.14',
  keyUsage: '2.5.29.15',
  basicConstraints: '2.5.29.19',
}
const VERSION_3 = 2
const YEARS_VALID = 10
/** Digital signature and key encipherment: the first and the third bit. */
const SIGNS_AND_ENCIPHERS = new Uint8Array([0xa0])

/**
 * An X.509 certificate (RFC 5280) as PEM, of the kind that pairings are made of: without names, since the parties know
 * each other by the certificates' bytes.
 */
export function makeCertificate(subjectKey: KeyObject, signingKey: KeyObject, authority: boolean): string {
  const spki = subjectKey.export({ type: 'spki', format: 'der' })
  const from = new Date()
  const to = new Date(from)
  to.setUTCFullYear(to.getUTCFullYear() + YEARS_VALID)
  const body = new Sequence({
    value: [
      tagged(0, new Integer({ value: VERSION_3 })),
      new Integer({ value: 0 }),
      signatureAlgorithm(),
      new Sequence(),
      new Sequence({ value: [new UTCTime({ valueDate: from }), new UTCTime({ valueDate: to })] }),
      new Sequence(),
      fromBER(spki).result,
      tagged(3, new Sequence({ value: extensions(spki, authority) })),
    ],
  })
  const signature = sign('sha256', Buffer.from(body.toBER()), signingKey)
  const whole = new Sequence({ value: [body, signatureAlgorithm(), new BitString({ valueHex: exact(signature) })] })
  return pem(Buffer.from(whole.toBER()))
}

function extensions(spki: Uint8Array, authority: boolean): Sequence[] {
  const basic = extension(
    OID.basicConstraints,
    new Sequence({ value: authority ? [new Asn1Boolean({ value: true })] : [] }),
    true,
  )
  if (authority) return [basic]
  const usage = new BitString({ valueHex: exact(SIGNS_AND_ENCIPHERS), unusedBits: 5 })
  const keyId = new OctetString({ valueHex: exact(createHash('sha1').update(spki).digest()) })
  return [basic, extension(OID.keyUsage, usage, true), extension(OID.subjectKeyId, keyId, false)]
}

function extension(oid: string, value: Sequence | BitString | OctetString, critical: boolean): Sequence {
  const parts = [new OctetString({ valueHex: value.toBER() })]
  const flag = critical ? [new Asn1Boolean({ value: true })] : []
  return new Sequence({ value: [new ObjectIdentifier({ value: oid }), ...flag, ...parts] })
}

const signatureAlgorithm = () =>
  new Sequence({ value: [new ObjectIdentifier({ value: OID.sha256WithRsa }), new Null()] })

const CONTEXT_SPECIFIC = 3
const tagged = (tagNumber: number, value: Integer | Sequence) =>
  new Constructed({ idBlock: { tagClass: CONTEXT_SPECIFIC, tagNumber }, value: [value] })

const exact = (bytes: Uint8Array): ArrayBuffer => new Uint8Array(bytes).buffer

function pem(der: Buffer): string {
  const lines = der.toString('base64').match(/.{1,64}/g) ?? []
  return `-----BEGIN CERTIFICATE-----\n${lines.join('\n')}\n-----END CERTIFICATE-----\n`
}
