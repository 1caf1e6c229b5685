import { type Catalogue, USE } from '../catalogue.js'
import type { Database } from '../database.js'
import { type Format, withProfiles } from './candidate.js'
import { leftoversOf, pageImageOf } from './images.js'
import { mostFrequent, namedCells, pageOf } from './named-cells.js'
import { Learner, type Profile } from './profile.js'

// So many given-up pages are looked at, and so many of a table say enough.
const MOST_LOOKED_AT = 400
const MOST_TAUGHT = 24

/**
 * The format with what given-up pages teach of tables that have no live rows: they were emptied or dropped, and the cells
 * that the pages' own pointers still name are theirs for sure.
 */
export function taughtByGivenUp(database: Database, catalogue: Catalogue, format: Format): Format {
  const learners = new Map<Profile, { learner: Learner; pages: number }>()
  for (const profile of format.own)
    if (!profile.learned) learners.set(profile, { learner: new Learner(profile), pages: 0 })
  let left = learners.size === 0 ? 0 : MOST_LOOKED_AT
  for (let page = 1; page < catalogue.use.length && left > 0; page++) {
    if (catalogue.use[page] !== USE.freeLeaf) continue
    left--
    const image = pageImageOf(database, catalogue, page)
    if (!image) continue
    const { named } = namedCells(image, leftoversOf(image, format), format)
    const best = mostFrequent(named.flatMap(({ fits }) => fits[0]?.profile ?? []))
    const of = best && learners.get(best)
    if (!of || of.pages >= MOST_TAUGHT) continue
    of.pages++
    of.learner.see(pageOf(image.page, image.bytes, named, best), format.usableSize)
  }
  const taught = new Map([...learners].map(([profile, { learner }]) => [profile, learner.profile()]))
  return withProfiles(format, (all) => all.map((profile) => taught.get(profile) ?? profile))
}
