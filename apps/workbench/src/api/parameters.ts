import { z } from 'zod'
import {
  copyPlaceId,
  copyTaskId,
  findingId,
  handoverId,
  jobId,
  readId,
  regularCopyId,
  returnId,
  sightingId,
  sourceId,
} from '../domain/ids.js'

const MOST_DIGITS = 15
const numberText = z.string().regex(new RegExp(`^[1-9]\\d{0,${MOST_DIGITS - 1}}$`))

const idIn = <S extends z.ZodType>(schema: S) =>
  numberText.transform(Number).pipe(schema as unknown as z.ZodType<z.output<S>, number>)
const positive = numberText.transform(Number).pipe(z.number().int().positive())
const name = z.string().min(1).max(200)

/** What stands in the paths of endpoints, by its name between braces. */
export const PARAMETERS = {
  job: idIn(jobId),
  source: idIn(sourceId),
  read: idIn(readId),
  finding: idIn(findingId),
  sighting: idIn(sightingId),
  handover: idIn(handoverId),
  return: idIn(returnId),
  /** Of safe copies, work in it, and copies that are made again and again. */
  place: idIn(copyPlaceId),
  task: idIn(copyTaskId),
  regular: idIn(regularCopyId),
  /** Of an attachment, and of a page: from 1. */
  index: positive,
  page: positive,
  /** Of a device. */
  udid: name,
  /** Of a folder that is brought in. */
  name,
  /** Of a mapping profile. */
  profile: name,
  action: z.enum(['stop', 'resume']),
} as const

/** A number in an address. */
export const numberInAddress = z.coerce.number<string | number>()
