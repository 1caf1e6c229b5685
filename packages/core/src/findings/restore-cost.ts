import { whyNot } from '../categories/encrypted.js'
import type { CategoryId } from '../categories/registry.js'
import type { CategoryState } from './states.js'

/** Why two sources were not compared in a category. */
export interface NotCompared {
  category: CategoryId
  why: string
}

/** A source as far as it matters here. */
export interface ComparedSource {
  id: number
  name: string
  /** It belongs to an account, and is no state of a device. */
  ofAccount: boolean
  /** It can hold the category. */
  mayHold(category: CategoryId): boolean
}

/**
 * Which categories of two sources can be compared (docs/truth.md, rule 17): those in which the word of both counts. Of
 * each other one it is said why nothing is known of it.
 */
export function comparability(
  categories: readonly CategoryId[],
  states: ReadonlyMap<CategoryId, readonly CategoryState[]>,
  first: ComparedSource,
  second: ComparedSource,
): { compared: CategoryId[]; not: NotCompared[] } {
  const compared: CategoryId[] = []
  const not: NotCompared[] = []
  for (const category of categories) {
    const stores = (source: ComparedSource) =>
      states.get(category)?.find(({ sourceId }) => sourceId === source.id)?.silent ?? new Set<string>()
    const silent = [first, second].find((source) => stores(source).size === 0)
    if (silent)
      not.push({
        category,
        why: whySilent(silent, category),
      })
    else if ([...stores(first)].every((name) => stores(second).has(name)) && stores(first).size === stores(second).size)
      compared.push(category)
    else not.push({ category, why: 'not both hold the same applications’ data' })
  }
  return { compared, not }
}

function whySilent({ name, ofAccount, mayHold }: ComparedSource, category: CategoryId): string {
  if (ofAccount) return `${name} is of the account: what it does not show may be on the device all the same`
  return mayHold(category)
    ? `of ${name} it was not read, is not there, or could not be read to its end`
    : `${name}: ${whyNot(category)}`
}
