import { z } from 'zod'

// A path from the root on: /…, C:\\… or \\\\server\\….
const folder = z
  .string()
  .trim()
  .max(1000)
  .regex(/^(\/|[a-z]:[\\/]|\\\\)/i, 'a whole path, from the root on')

export const settings = z.object({
  /** Folders searched for backups, beside the usual ones. */
  searchFolders: z.array(folder).max(50),
  /** Folders below which handovers may be written. */
  allowedRoots: z.array(folder).min(1, 'at least one folder for handovers').max(50),
})
export type Settings = z.output<typeof settings>
