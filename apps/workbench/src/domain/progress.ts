import { z } from 'zod'
import { facets } from './finding.js'
import { handover } from './handover.js'
import { read } from './source.js'
import { trayLine } from './tray.js'

/** Everything in a job that moves by itself. */
export const jobProgress = z.strictObject({
  reads: z.array(read),
  handovers: z.array(handover),
  /** Null: they are being counted, and told as soon as they are. */
  facets: facets.nullable(),
  /** Null: it is being summed, likewise. */
  tray: z.array(trayLine).nullable(),
})

export type JobProgress = z.output<typeof jobProgress>
