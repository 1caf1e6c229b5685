import { createCipheriv, createHash } from 'node:crypto'
import { Set as Asn1Set, GeneralizedTime, Integer, OctetString, Sequence, Utf8String } from 'asn1js'
import { buildBinary } from 'plist'
import { type Lock, wrap } from '../../backup/lock.js'

const AFTER_FIRST_UNLOCK = 7

/** One saved password as it is written. */
export interface SavedPassword {
  list: 'genp' | 'inet'
  account: string
  place: string
  secret: string
}

const PASSWORDS: SavedPassword[] = [
  { list: 'inet', account: 'odile@theatre.example', place: 'tickets.theatre.example', secret: 'Seventeen-Foxes' },
  { list: 'inet', account: 'odile', place: 'postbox.example', secret: 'pärchen & 月' },
  { list: 'genp', account: 'Theatre van', place: 'AirPort', secret: 'curtain-up-at-8' },
  { list: 'genp', account: 'casting', place: 'example.puppetry.chat', secret: 'string#9' },
]

/** A keychain file as a backup with a password holds it: every item locked with a key of its own. */
export function keychainFile(lock: Lock, changedAt: Date): { bytes: Uint8Array; written: SavedPassword[] } {
  const lists: Record<string, object[]> = { genp: [], inet: [], cert: [], keys: [] }
  for (const saved of PASSWORDS) lists[saved.list]?.push({ v_Data: locked(saved, lock, changedAt) })
  return { bytes: buildBinary(lists as never), written: PASSWORDS }
}

function locked({ list, account, place, secret }: SavedPassword, lock: Lock, changedAt: Date): Buffer {
  const pair = (name: string, value: Utf8String | OctetString | Integer | GeneralizedTime) =>
    new Sequence({ value: [new Utf8String({ value: name }), value] })
  const item = new Asn1Set({
    value: [
      pair('acct', new Utf8String({ value: account })),
      pair(list === 'inet' ? 'srvr' : 'svce', new Utf8String({ value: place })),
      pair('agrp', new Utf8String({ value: 'example.theatre' })),
      pair('mdat', new GeneralizedTime({ valueDate: changedAt })),
      pair('tomb', new Integer({ value: 0 })),
      pair('v_Data', new OctetString({ valueHex: new Uint8Array(Buffer.from(secret)).buffer })),
    ],
  })
  const key = createHash('sha256').update(`${account} at ${place}`).digest()
  const sealed = seal(key, Buffer.from(item.toBER()))
  const head = Buffer.alloc(12)
  head.writeUInt32LE(3, 0)
  head.writeUInt32LE(AFTER_FIRST_UNLOCK, 4)
  head.writeUInt32LE(40, 8)
  return Buffer.concat([head, wrap(lock.classKey(AFTER_FIRST_UNLOCK), key), sealed])
}

/** AES-256-GCM (NIST SP 800-38D) with an initial vector of no bytes: the text is in counter mode from one on. */
function seal(key: Buffer, plain: Buffer): Buffer {
  const counter = Buffer.alloc(16)
  counter[15] = 1
  const sealed = createCipheriv('aes-256-ctr', key, counter).update(plain)
  return Buffer.concat([sealed, tagOf(key, sealed)])
}

/** The tag by the library's own GHASH: of a text that is only authenticated, under a vector whose mask is known. */
function tagOf(key: Buffer, sealed: Buffer): Buffer {
  const block = (input: Buffer) => createCipheriv('aes-256-ecb', key, null).setAutoPadding(false).update(input)
  const vector = Buffer.alloc(12)
  const gcm = createCipheriv('aes-256-gcm', key, vector)
  // In counter mode what is encrypted twice with the same stream comes out as it was.
  const stream = gcm.update(Buffer.alloc(sealed.length))
  gcm.final()
  const again = createCipheriv('aes-256-gcm', key, vector)
  again.update(Buffer.from(sealed.map((byte, i) => byte ^ (stream[i] as number))))
  again.final()
  const mask = block(Buffer.concat([vector, Buffer.from([0, 0, 0, 1])]))
  const wanted = block(Buffer.alloc(16))
  return Buffer.from(again.getAuthTag().map((byte, i) => byte ^ (mask[i] as number) ^ (wanted[i] as number)))
}
