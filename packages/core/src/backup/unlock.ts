import { pbkdf2 } from 'node:crypto'
import { promisify } from 'node:util'
import { type Report, SourceError } from '../io/errors.js'
import { type Keybag, unwrapKey } from './keybag.js'

const derive = promisify(pbkdf2)
const KEY_BYTES = 32

/** The opened keys of a backup, by class. They live in memory only. */
export type ClassKeys = ReadonlyMap<number, Uint8Array>

/** Called while keys are derived with how much of the work is done, from 0 to 1, as estimated from this computer's speed. */
export type Progress = (share: number) => void

/**
 * The key that a password gives (RFC 8018): PBKDF2-HMAC-SHA1, in newer bags behind PBKDF2-HMAC-SHA256. It is computed
 * in the background; ten million rounds take some ten seconds.
 */
export async function passwordKey(
  keybag: Keybag,
  password: string,
  progress: Progress = () => {},
): Promise<Uint8Array> {
  const { first } = keybag
  if (!first) return derive(password, keybag.salt, keybag.iterations, KEY_BYTES, 'sha1')
  const stop = await estimated(first.iterations, progress)
  try {
    const middle = await derive(password, first.salt, first.iterations, KEY_BYTES, 'sha256')
    return await derive(middle, keybag.salt, keybag.iterations, KEY_BYTES, 'sha1')
  } finally {
    stop()
  }
}

const PROBE_ROUNDS = 100_000
const TICK_MS = 250

/** The derivation itself says nothing until it ends, so a short one before it tells how long it will take. */
async function estimated(iterations: number, progress: Progress): Promise<() => void> {
  if (iterations < PROBE_ROUNDS * 4) return () => {}
  const before = performance.now()
  await derive('probe', 'probe', PROBE_ROUNDS, KEY_BYTES, 'sha256')
  const expected = ((performance.now() - before) * iterations) / PROBE_ROUNDS
  const started = performance.now()
  const timer = setInterval(() => progress(Math.min(0.99, (performance.now() - started) / expected)), TICK_MS)
  return () => clearInterval(timer)
}

/**
 * Opens the key bag with a password. It is tried as it stands, then with its accents composed and decomposed, since the
 * device may have kept another form.
 * @throws SourceError('password-wrong') when no class opens; classes that stay closed while others open are damage, and
 * reported
 */
export async function unlock(
  keybag: Keybag,
  password: string,
  report: Report,
  progress: Progress = () => {},
): Promise<ClassKeys> {
  if (keybag.classes.size === 0)
    throw new SourceError(
      'not-readable',
      'The key bag holds no key that a password could open. Try another copy of the backup.',
    )
  const forms = new Set([password, password.normalize('NFC'), password.normalize('NFD')])
  for (const form of forms) {
    const key = await passwordKey(keybag, form, progress)
    const opened = new Map<number, Uint8Array>()
    for (const [id, wrapped] of keybag.classes) {
      const unwrapped = unwrapKey(key, wrapped)
      if (unwrapped) opened.set(id, unwrapped)
    }
    if (opened.size === 0) continue
    reportClosed(keybag, opened, report)
    return opened
  }
  throw new SourceError('password-wrong', 'The password does not open this backup. It was not kept; try another one.')
}

function reportClosed(keybag: Keybag, opened: ClassKeys, report: Report): void {
  const closed = [...keybag.classes.keys()].filter((id) => !opened.has(id))
  if (closed.length > 0)
    report({
      code: 'keybag-damaged',
      message: `The key bag is damaged: files of the protection classes ${closed.join(', ')} stay closed.`,
      path: 'Manifest.plist',
    })
}
