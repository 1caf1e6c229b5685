import { timingSafeEqual } from 'node:crypto'
import { readConfig } from '../config.js'
import { AppError } from '../domain/errors.js'

/** The header in which our own processes show a secret that is made anew at every start. */
export const HEADER = 'x-lumbrin-secret'

/** The secret of a request between our processes. */
export const secretOf = (request: Request): string | null => request.headers.get(HEADER)

/** @throws AppError('not-found') unless the secret is right: to others there is nothing here */
export function requireReader(secret: string | null): void {
  const { readerSecret } = readConfig()
  const given = Buffer.from(secret ?? '')
  const wanted = Buffer.from(readerSecret ?? '')
  if (wanted.length === 0 || given.length !== wanted.length || !timingSafeEqual(given, wanted))
    throw new AppError('not-found', 'There is no such thing here.')
}

/** Asks the server, which holds keys and sessions. Undefined: it does not answer, or has nothing. */
export async function askServer(path: string): Promise<Response | undefined> {
  const { port, readerSecret } = readConfig()
  const answer = await fetch(`http://127.0.0.1:${port}${path}`, { headers: { [HEADER]: readerSecret ?? '' } }).catch(
    () => undefined,
  )
  return answer?.ok ? answer : undefined
}
