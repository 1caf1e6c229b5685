import { type ChildProcess, fork } from 'node:child_process'
import { hostname } from 'node:os'
import { isConnectionLoss } from '../database/connection.js'
import { log } from '../log.js'

/** The name under which a child process claims work: releaseDead() takes the process from its end. */
export const childWorker = (kind: string, { pid }: { pid?: number | undefined }): string =>
  `${hostname()}:${kind}:${pid}`

/**
 * Starts this same program again as a child process, which is told to end when `ending` is aborted.
 * @param argument its command-line argument, which says what it does
 * @param options further options of Node.js (node(1))
 */
export function startChild(argument: string, ending: AbortSignal, options: readonly string[] = []): ChildProcess {
  const child = fork(process.argv[1] ?? '', [argument], { execArgv: [...process.execArgv, ...options] })
  const stop = () => void child.kill('SIGTERM')
  ending.addEventListener('abort', stop)
  child.once('exit', () => ending.removeEventListener('abort', stop))
  return child
}

/**
 * Does the work of a child process, and lets go of its parent. When the parent dies meanwhile, this process exits at once:
 * the next parent starts its work again. When the database is lost, the parent returns what was claimed to the queue.
 */
export async function workAsChild(work: () => Promise<void>): Promise<void> {
  process.once('disconnect', () => process.exit(1))
  if (!process.connected) return
  try {
    await work()
  } catch (thrown) {
    if (!isConnectionLoss(thrown)) throw thrown
    log.error({ err: thrown }, 'the work of a child process was broken off')
  }
  process.removeAllListeners('disconnect')
  process.disconnect()
}
