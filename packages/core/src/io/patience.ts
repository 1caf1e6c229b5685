/** A disk that wakes up needs some ten seconds; one that has not answered after this does not answer. Milliseconds. */
const PATIENCE_MS = 30_000

/** What a source lies on stopped answering: it is there, and nothing can be had of it. */
export class HangError extends Error {
  override readonly name = 'HangError'
}

/**
 * The result of an operation on a source's file, if it comes in time. An operation of the file system cannot be called off:
 * what comes after that goes to `late`.
 * @throws HangError where it does not come
 */
export async function inTime<T>(
  operation: Promise<T>,
  path: string,
  late: (result: T) => void = () => {},
  patienceMs = PATIENCE_MS,
): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  let over = false
  const waited = new Promise<never>((_, reject) => {
    timer = setTimeout(() => {
      over = true
      reject(new HangError(`"${path}" does not answer for ${Math.round(patienceMs / 1000)} seconds.`))
    }, patienceMs)
  })
  operation.then((result) => over && late(result)).catch(() => {})
  return Promise.race([operation, waited]).finally(() => clearTimeout(timer))
}
