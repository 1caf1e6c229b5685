import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { SetupError } from './shell.mjs'

/** Names the process that works with a data folder. */
const FILE = 'running'

/**
 * Keeps a data folder for this process, so that no other Lumbrin works with it at the same time; gives what lets go of it.
 * One that a dead process kept is taken over.
 */
export function holdFolder(folder) {
  const path = join(folder, FILE)
  for (;;)
    try {
      writeFileSync(path, `${process.pid} ${startOf(process.pid)}`, { flag: 'wx', mode: 0o600 })
      return () => rmSync(path, { force: true })
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
      const [pid, start] = existsSync(path) ? readFileSync(path, 'utf8').split(' ') : []
      if (pid && isTheSame(Number(pid), start))
        throw new SetupError(
          `Lumbrin works with ${folder} already (process ${pid}). "npm run open" prints an address that opens it; Ctrl-C in its terminal ends it. For a second one set LUMBRIN_DATA and LUMBRIN_PORT.`,
        )
      rmSync(path, { force: true })
    }
}

/** A process number may have gone to some other program since: its start tells. */
const isTheSame = (pid, start) => pid !== process.pid && startOf(pid) === start

/** When a process started, in the system's ticks; "gone" where there is none, "there" where the system does not say when. */
function startOf(pid) {
  try {
    // Field 22 of proc(5); the name in field 2 may hold blanks and brackets.
    return readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ').at(-1).split(' ')[19]
  } catch {
    return existsSync('/proc/self/stat') ? 'gone' : isThere(pid)
  }
}

function isThere(pid) {
  try {
    process.kill(pid, 0)
    return 'there'
  } catch {
    return 'gone'
  }
}
