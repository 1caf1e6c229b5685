import { z } from 'zod'
import { MOST_READS_AT_ONCE } from './reads-at-once.js'

// A path from the root on: /…, C:\\… or \\\\server\\….
const folder = z
  .string()
  .trim()
  .max(1000)
  .regex(/^(\/|[a-z]:[\\/]|\\\\)/i, 'a whole path, from the root on')

/** A picture of at most some hundred kilobytes, as an address that holds it. */
const mark = z
  .string()
  .max(500_000, 'a picture of at most 350 kB')
  .regex(/^data:image\/(png|jpeg);base64,[A-Za-z0-9+/]+=*$/, 'a PNG or JPEG picture')

/** Who hands over: the head of reports and receipts. An empty name: they have none. */
export const shop = z.object({
  name: z.string().trim().max(120),
  address: z.string().trim().max(500),
  mark: mark.nullable(),
})
export type Shop = z.output<typeof shop>

export const NO_SHOP: Shop = { name: '', address: '', mark: null }

export const settings = z.object({
  /** Folders searched for backups, beside the usual ones. */
  searchFolders: z.array(folder).max(50),
  /** Folders below which handovers may be written. */
  allowedRoots: z.array(folder).min(1, 'at least one folder for handovers').max(50),
  shop: shop.default(NO_SHOP),
  /** How many sources are read at once; null: as many as suit this computer. */
  readsAtOnce: z.number().int().min(1).max(MOST_READS_AT_ONCE).nullable().default(null),
})
export type Settings = z.output<typeof settings>
