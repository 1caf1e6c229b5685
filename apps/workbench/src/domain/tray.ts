import { z } from 'zod'
import { category, count, standing } from './core-values.js'

/** What lies in the tray, by category and standing. */
export const trayLine = z.strictObject({ category, standing, count, bytes: count }).meta({ id: 'TrayLine' })

/** What was put in or taken out together, and by which name it can be undone. */
export const trayChange = z.strictObject({
  /** Findings that were not so before. */
  count,
  step: z.string(),
})

export type TrayLine = z.output<typeof trayLine>
export type TrayChange = z.output<typeof trayChange>
