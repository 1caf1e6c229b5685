import { rm } from 'node:fs/promises'
import { openSource } from '../collected/open.js'
import { type CopyOptions, type CopyOutcome, makeCopy } from '../copies/make.js'
import { SourceError } from '../io/errors.js'
import { DeviceCollector } from './collector.js'
import type { Multiplexer } from './multiplexer.js'
import type { DevicePart } from './parts.js'

export interface DeviceCopyOptions extends CopyOptions {
  part: DevicePart
  /** Where contents lie on their way. It goes when the copy is whole; a later try uses what an earlier one left there. */
  folder: string
}

/**
 * Copies the state of an attached device into a place. Files of the media area that by size and time are those of the
 * copy before are not fetched again; all else comes in the backup that the device makes of itself. Nothing is written to
 * the device.
 * @throws DeviceError where it went away or gives nothing; SourceError where the place cannot be used, or where the
 * device makes backups with a password only; the signal's reason when stopped
 */
export async function copyDevice(
  mux: Multiplexer,
  udid: string,
  to: string,
  { folder, part, signal, ...options }: DeviceCopyOptions,
): Promise<CopyOutcome> {
  const stop = new AbortController()
  const abort = () => stop.abort(signal?.reason)
  signal?.addEventListener('abort', abort, { once: true })
  if (signal?.aborted) abort()
  const collector = new DeviceCollector(mux, udid, {
    folder,
    report: options.report,
    progress: () => {},
    signal: stop.signal,
  })
  try {
    await collector.begin(true)
    if (part === 'everything') await collector.prepare([], () => true)
    const tree = await openSource(folder, options.report, {}, collector.fetch).catch(sayWhoseWord)
    try {
      const outcome = await makeCopy(tree, to, { ...options, signal: stop.signal })
      await rm(folder, { recursive: true, force: true })
      return outcome
    } finally {
      await tree.close()
    }
  } catch (thrown) {
    // Stopping closes the connection, which makes calls fail: the reason of the stop is what counts.
    signal?.throwIfAborted()
    throw thrown
  } finally {
    signal?.removeEventListener('abort', abort)
    await collector.close()
  }
}

function sayWhoseWord(thrown: unknown): never {
  if (!(thrown instanceof SourceError) || thrown.code !== 'password-needed') throw thrown
  throw new SourceError(
    'password-needed',
    'This device makes backups with a password only, which nobody is asked for here. Copy its pictures, films and recordings; or make a backup of it, and keep a safe copy of that in its job.',
    { cause: thrown },
  )
}
