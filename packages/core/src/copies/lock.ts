import { open, readFile, rm, stat, utimes } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { SourceError } from '../io/errors.js'

const LOCK_FILE = '.writing'
// Milliseconds. Whoever writes says so again and again; a program that was killed does not.
const TELL_EVERY = 20_000
const SILENT_FOR = 120_000
/** What a slow disk may take between the making of the lock file and the name in it. */
const HALF_MADE = 3000

/**
 * Does work that writes to a place of copies, while nobody else does: what one of two is about to use, the other might
 * remove. @throws SourceError where somebody else writes to it now
 */
export async function writingTo<T>(place: string, work: () => Promise<T>): Promise<T> {
  const path = join(place, LOCK_FILE)
  await take(path)
  const timer = setInterval(() => void utimes(path, new Date(), new Date()).catch(() => {}), TELL_EVERY)
  timer.unref()
  try {
    return await work()
  } finally {
    clearInterval(timer)
    await rm(path, { force: true })
  }
}

async function take(path: string): Promise<void> {
  for (let tries = 0; ; tries++)
    try {
      const file = await open(path, 'wx', 0o600)
      await file.writeFile(`${hostname()} ${process.pid}\n`).finally(() => file.close())
      return
    } catch (thrown) {
      if ((thrown as NodeJS.ErrnoException).code !== 'EEXIST') throw thrown
      if (tries > 0 || !(await isLeft(path)))
        throw new SourceError(
          'not-readable',
          'Another program writes to this place of copies now. Try again when it has ended.',
          { cause: thrown },
        )
      await rm(path, { force: true })
    }
}

/** True where whoever wrote is gone: its process on this computer has ended, or it has said nothing for long. */
async function isLeft(path: string): Promise<boolean> {
  const found = await stat(path).catch(() => undefined)
  if (!found || Date.now() - found.mtimeMs > SILENT_FOR) return true
  const holder = (await holderIn(path)) ?? (await sleep(HALF_MADE).then(() => holderIn(path)))
  // Its writer was killed before it had said who it is.
  if (!holder) return true
  return holder.host === hostname() && !isAlive(holder.pid)
}

/** Undefined: the file does not say it, or not yet. */
async function holderIn(path: string): Promise<{ host: string; pid: number } | undefined> {
  const [, host, pid] = (await readFile(path, 'utf8').catch(() => '')).match(/^(\S+) (\d+)\n$/) ?? []
  return host && pid ? { host, pid: Number(pid) } : undefined
}

function isAlive(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch (thrown) {
    return (thrown as NodeJS.ErrnoException).code === 'EPERM'
  }
}
