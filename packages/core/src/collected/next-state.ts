import { copyFile, link, mkdir, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { Collection } from './collection.js'

/**
 * Begins another state of a device or an account beside an earlier one, which stays as it is: with the earlier listing,
 * by which what did not change is known, and with the whole contents that are here, linked and not copied. The next
 * `begin` of a collector makes the listing anew.
 */
export async function beginNextState(from: string, to: string): Promise<void> {
  const earlier = new Collection(from)
  const next = new Collection(to)
  await next.writeHeader({ ...(await earlier.header()), takenAt: new Date(), receivedAt: null })
  if (!(await earlier.hasListing())) return
  await copyFile(join(from, 'listing.jsonl'), join(to, 'listing.jsonl'))
  for (const shelf of await readdir(join(from, 'contents')).catch(() => [])) {
    await mkdir(join(to, 'contents', shelf), { recursive: true })
    // What is not whole would go on growing in both places.
    for (const name of await readdir(join(from, 'contents', shelf)))
      if (/^[0-9a-f]{40}$/.test(name))
        await linkOrCopy(join(from, 'contents', shelf, name), join(to, 'contents', shelf, name))
  }
}

/** Some file systems know no links. */
const linkOrCopy = (from: string, to: string): Promise<void> => link(from, to).catch(() => copyFile(from, to))
