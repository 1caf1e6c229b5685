import { z } from 'zod'
import type { Db } from './connection.js'
import { loadSetting, saveSetting } from './jobs.js'

const NAME = 'sessions'
const one = z.object({ hash: z.string(), begunAt: z.number(), seenAt: z.number(), operator: z.string().optional() })

/** Sessions of browsers, kept among the settings. What cannot be understood there is none. */
export const sessionsIn = (db: Db) => ({
  load: async () =>
    z
      .array(one)
      .catch([])
      .parse(await loadSetting(db, NAME)),
  save: (sessions: readonly z.infer<typeof one>[]) => saveSetting(db, NAME, sessions),
})
