import { type Catalogue, USE } from '../../catalogue.js'
import type { Database } from '../../database.js'
import { type Format, withProfiles } from '../evidence/candidate.js'
import { type Profile, ProfileFit } from '../evidence/profile.js'
import { leftoversOf, pageImageOf } from './images.js'
import { mostFrequent, namedCells, pageOf } from './named-cells.js'

// Freelist pages that are looked at, and pages of one table that are enough to fit its profile.
const MOST_LOOKED_AT = 400
const MOST_SAMPLES = 24

/**
 * The format with the profiles of tables without live rows fitted to freelist pages: those tables were emptied or dropped, and the cells
 * that the pages' own pointers still name are theirs for sure.
 */
export function trainedOnFreePages(database: Database, catalogue: Catalogue, format: Format): Format {
  const fits = new Map<Profile, { fit: ProfileFit; pages: number }>()
  for (const profile of format.own) if (!profile.fitted) fits.set(profile, { fit: new ProfileFit(profile), pages: 0 })
  let left = fits.size === 0 ? 0 : MOST_LOOKED_AT
  for (let page = 1; page < catalogue.use.length && left > 0; page++) {
    if (catalogue.use[page] !== USE.freeLeaf) continue
    left--
    const image = pageImageOf(database, catalogue, page)
    if (!image) continue
    const { named } = namedCells(image, leftoversOf(image, format), format)
    const best = mostFrequent(named.flatMap(({ fits }) => fits[0]?.profile ?? []))
    const of = best && fits.get(best)
    if (!of || of.pages >= MOST_SAMPLES) continue
    of.pages++
    of.fit.see(pageOf(image.page, image.bytes, named, best), format.usableSize)
  }
  const taught = new Map([...fits].map(([profile, { fit }]) => [profile, fit.profile()]))
  return withProfiles(format, (all) => all.map((profile) => taught.get(profile) ?? profile))
}
