import { profileSchema } from '@lumbrin/core/categories/chats/profile'
import { z } from 'zod'
import { count, sighting } from './core-values.js'

/** What a mapping profile reads from a source, without keeping any of it. */
export const trial = z.strictObject({
  store: z.string(),
  messages: z.array(sighting),
  live: count,
  rebuilt: count,
  warnings: z.array(z.string()),
})

/** The technician's own profiles, and what is wrong with those that cannot be read. */
export const ownProfiles = z.strictObject({ profiles: z.array(profileSchema), problems: z.array(z.string()) })

export { profileSchema as profile }
export type OwnProfiles = z.output<typeof ownProfiles>
export type Trial = z.output<typeof trial>
