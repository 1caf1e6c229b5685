import { z } from 'zod'
import { findingId } from './ids.js'

/** What the technician notes to a finding, for the owner and the package. */
export const noteText = z.string().trim().max(1000)

export const note = z.strictObject({ finding: findingId, text: z.string() })
export type Note = z.output<typeof note>
