import pino from 'pino'

/**
 * What an error may say in the log. The message of one that is not ours may hold an owner's text ("Unexpected token in …"
 * of JSON, a statement with its values), so that its class, its code and its places in the code have to do.
 */
export function errorInLog(thrown: unknown): Record<string, unknown> {
  if (!(thrown instanceof Error)) return { type: typeof thrown }
  const { name, message, code } = thrown as Error & { code?: unknown }
  // A stack begins with the message, whose lines may look like places.
  const stack = thrown.stack ?? ''
  const places = stack
    .slice(stack.indexOf(message) + message.length)
    .split('\n')
    .filter((line) => /^\s+at /.test(line))
  return {
    type: name,
    ...(typeof code === 'string' || typeof code === 'number' ? { code } : {}),
    ...(OF_CODE.has(name) ? { message } : {}),
    stack: places.map((line) => line.trim()),
    ...(thrown.cause === undefined ? {} : { cause: errorInLog(thrown.cause) }),
  }
}

// Mistakes in code: their messages name properties, and no value.
const OF_CODE = new Set(['TypeError', 'ReferenceError', 'RangeError'])

/**
 * The log of server and reader: JSON Lines on standard error, from the level that `LUMBRIN_LOG` names (info). It says what
 * went wrong inside the application; what was done in a job stands in that job's own log.
 */
export const log = pino(
  {
    level: process.env.LUMBRIN_LOG ?? 'info',
    base: null,
    serializers: { err: errorInLog },
    timestamp: pino.stdTimeFunctions.isoTime,
  },
  pino.destination({ fd: 2, sync: true }),
)
