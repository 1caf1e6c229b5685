import { createCipheriv, createHash, pbkdf2Sync } from 'node:crypto'

/** How a made-up backup is locked. */
export interface LockSettings {
  password: string
  /** Rounds of the SHA-256 derivation before the other; undefined: the older kind of bag, which has none. */
  firstRounds?: number
  rounds?: number
}

const CLASSES = [1, 2, 3, 4, 6, 7, 8]
const DEVICE_ONLY = [9, 10, 11]
const FILE_CLASS = 3
const MANIFEST_CLASS = 4
const WRAP_IV = Buffer.alloc(8, 0xa6)

/** Locks the files of a made-up backup, as a device would. All keys follow from the seed, so that builds are equal. */
export class Lock {
  readonly keybag: Buffer
  readonly #classKeys = new Map<number, Buffer>()
  #made = 0

  constructor(
    readonly settings: LockSettings,
    readonly seed: string,
  ) {
    const { password, firstRounds, rounds = 10_000 } = settings
    const salt = this.#bytes('salt', 20)
    const firstSalt = this.#bytes('first salt', 20)
    const middle =
      firstRounds === undefined ? Buffer.from(password) : pbkdf2Sync(password, firstSalt, firstRounds, 32, 'sha256')
    const passwordKey = pbkdf2Sync(middle, salt, rounds, 32, 'sha1')
    const first = firstRounds === undefined ? [] : [item('DPWT', 1), item('DPIC', firstRounds), item('DPSL', firstSalt)]
    this.keybag = Buffer.concat([
      ...[item('VERS', firstRounds === undefined ? 3 : 4), item('TYPE', 1), item('UUID', this.#bytes('bag', 16))],
      ...[item('HMCK', this.#bytes('mac', 40)), item('WRAP', 0), item('SALT', salt), item('ITER', rounds), ...first],
      ...CLASSES.map((id) => this.#classEntry(id, passwordKey)),
      ...DEVICE_ONLY.map((id) => this.#deviceEntry(id)),
    ])
  }

  /** Encrypts a content: what is stored, and the key to list it with. */
  seal(content: Uint8Array): { stored: Buffer; key: Buffer } {
    return this.#sealWith(FILE_CLASS, content)
  }

  /** The manifest is encrypted as a whole. */
  sealManifest(content: Uint8Array): { stored: Buffer; key: Buffer } {
    return this.#sealWith(MANIFEST_CLASS, content)
  }

  /** The key of a protection class, for items that are locked with it themselves. */
  classKey(id: number): Buffer {
    return this.#classKeys.get(id) as Buffer
  }

  #sealWith(id: number, content: Uint8Array): { stored: Buffer; key: Buffer } {
    const key = this.#bytes(`file ${this.#made++}`, 32)
    const cipher = createCipheriv('aes-256-cbc', key, Buffer.alloc(16))
    const stored = Buffer.concat([cipher.update(content), cipher.final()])
    const head = Buffer.alloc(4)
    head.writeUInt32LE(id)
    return { stored, key: Buffer.concat([head, wrap(this.classKey(id), key)]) }
  }

  #classEntry(id: number, passwordKey: Buffer): Buffer {
    const key = this.#bytes(`class ${id}`, 32)
    this.#classKeys.set(id, key)
    return entry(this.#bytes(`uuid ${id}`, 16), id, 2, wrap(passwordKey, key))
  }

  #deviceEntry(id: number): Buffer {
    return entry(this.#bytes(`uuid ${id}`, 16), id, 3, this.#bytes(`sealed ${id}`, 40))
  }

  #bytes(what: string, length: number): Buffer {
    return createHash('sha512').update(`${this.seed} ${what}`).digest().subarray(0, length)
  }
}

function entry(uuid: Buffer, id: number, wrapping: number, key: Buffer): Buffer {
  return Buffer.concat([
    item('UUID', uuid),
    item('CLAS', id),
    item('WRAP', wrapping),
    item('KTYP', 0),
    item('WPKY', key),
  ])
}

function item(tag: string, value: Buffer | number): Buffer {
  const bytes = typeof value === 'number' ? Buffer.alloc(4) : value
  if (typeof value === 'number') bytes.writeUInt32BE(value)
  const length = Buffer.alloc(4)
  length.writeUInt32BE(bytes.length)
  return Buffer.concat([Buffer.from(tag, 'latin1'), length, bytes])
}

/** RFC 3394 key wrap. */
export function wrap(key: Buffer, inner: Buffer): Buffer {
  const cipher = createCipheriv('id-aes256-wrap', key, WRAP_IV)
  return Buffer.concat([cipher.update(inner), cipher.final()])
}
