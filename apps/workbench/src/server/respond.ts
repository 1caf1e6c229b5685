import { CloudError } from '@lumbrin/core/cloud/errors'
import { DeviceError } from '@lumbrin/core/device/errors'
import { DestinationError } from '@lumbrin/core/export/bag-types'
import { FormatError, SourceError } from '@lumbrin/core/io/errors'
import { HangError } from '@lumbrin/core/io/patience'
import type { APIContext, APIRoute } from 'astro'
import { z } from 'zod'
import { isDamage, WHAT_TO_DO } from '../database/damage.js'
import { AppError } from '../domain/errors.js'
import { log } from '../log.js'
import { textWithin } from './limits.js'

/** Wraps an endpoint: what it throws becomes an answer that a user understands; the unforeseen is logged and kept back. */
export function route(handle: (context: APIContext) => Promise<Response>): APIRoute {
  return async (context) => {
    try {
      return await handle(context)
    } catch (thrown) {
      const error = toAppError(thrown)
      if (error.code === 'internal') log.error({ err: thrown }, 'a request failed')
      return Response.json({ error: { code: error.code, message: error.message } }, { status: error.status })
    }
  }
}

/** What is wrong with a request, a sentence for each problem; where it stands is said only where the words do not. */
function wordsOfProblems({ issues }: z.ZodError): string {
  const own = issues.map(({ message, path }) =>
    /^Invalid|^Unrecognized|^Too (big|small)/.test(message)
      ? `${path.join('.') || 'The request'}: ${message}`
      : message,
  )
  return [...new Set(own)].join('\n')
}

/** One door for anything thrown. */
export function toAppError(thrown: unknown): AppError {
  if (thrown instanceof AppError) return thrown
  if (thrown instanceof z.ZodError) return new AppError('invalid', wordsOfProblems(thrown), { cause: thrown })
  if (thrown instanceof SourceError || thrown instanceof DestinationError)
    return new AppError('unusable', thrown.message, { cause: thrown })
  if (thrown instanceof FormatError)
    return new AppError('unusable', `This cannot be read: ${thrown.message}.`, { cause: thrown })
  if (thrown instanceof HangError)
    return new AppError('conflict', `${thrown.message} Look at its disk and cable, and try again.`, { cause: thrown })
  if (thrown instanceof DeviceError || thrown instanceof CloudError)
    return new AppError('conflict', thrown.message, { cause: thrown })
  if (isDamage(thrown))
    return new AppError('internal', `Lumbrin’s database has a file of its own that is damaged. ${WHAT_TO_DO}`, {
      cause: thrown,
    })
  return new AppError(
    'internal',
    'Something went wrong inside the application. Nothing was changed; its log says more.',
    { cause: thrown },
  )
}

const MAX_BODY_BYTES = 4 << 20

/** The request's JSON body, checked. @throws ZodError, AppError('invalid') */
export async function bodyOf<T extends z.ZodType>(request: Request, schema: T): Promise<z.infer<T>> {
  return schema.parse(parsedJson(await textWithin(request, MAX_BODY_BYTES)))
}

function parsedJson(text: string): unknown {
  try {
    return JSON.parse(text)
  } catch {
    throw new AppError('invalid', 'The request is not valid JSON.')
  }
}
