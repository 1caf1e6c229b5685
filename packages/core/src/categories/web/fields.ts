import { z } from 'zod'
import { flag, moment, text, whole } from '../field-values.js'

export const webHistoryFields = z.strictObject({
  url: text,
  pageTitle: text,
  /** The last of `visitTimes`. */
  visitedAt: moment,
  visits: whole,
  visitTimes: z.array(z.iso.datetime()),
})

export const bookmarkFields = z.strictObject({
  url: text,
  pageTitle: text,
  folder: text,
  uuid: text,
  modifiedAt: moment,
})

export const openTabFields = z.strictObject({ url: text, pageTitle: text, viewedAt: moment, private: flag, uuid: text })
