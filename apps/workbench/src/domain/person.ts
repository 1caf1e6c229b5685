import { z } from 'zod'
import { category, count } from './core-values.js'

/** A person as the address names them: by a name or an address that findings have. */
export const personName = z.string().trim().min(1, 'Name somebody.').max(200)

/** Everything with one person, counted. */
export const person = z.strictObject({
  name: z.string(),
  /** Numbers and addresses that findings have beside the name. */
  addresses: z.array(z.string()),
  counts: z.array(z.strictObject({ category, count, lost: count, inTray: count })),
})
export type Person = z.output<typeof person>
