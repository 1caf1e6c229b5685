import type { RouteFacts, RouteStep } from './route-facts.js'
import { PLACE_RULES } from './route-places.js'
import { READ_RULES } from './route-reading.js'
import { type Rule, step } from './route-step.js'
import type { Standing } from './standing.js'

/** How many leftovers are whole and how many are parts, in words; a count of none is left out. */
const partsOf = ({ rebuilt, partial }: RouteFacts['matching']) =>
  partial === 0 ? 'whole' : rebuilt === 0 ? 'only parts' : `${rebuilt} whole, ${partial} in part`
const counted = (count: number) => (count === 1 ? 'the one matching item' : `the ${count} matching items`)

/** A rule that leads to what was found: it comes before everything else. */
function found(
  id: string,
  standings: readonly Standing[],
  count: (facts: RouteFacts) => number,
  words: (facts: RouteFacts) => { do: string; why: string; daysLeft?: number | null },
): Rule {
  return {
    id,
    steps: (facts) =>
      count(facts) > 0
        ? [
            step({
              ...words(facts),
              likelihood: 'likely',
              cost: 'minutes, no risk',
              action: { kind: 'open', standings },
            }),
          ]
        : [],
  }
}

/** Rules that lead to what was found. */
const FOUND_RULES: readonly Rule[] = [
  found(
    'found-in-bin',
    ['binned'],
    ({ matching }) => matching.binned,
    ({ matching }) => ({
      do: `Look at ${counted(matching.binned)} in a bin.`,
      why:
        matching.leastDaysLeft === null
          ? 'The days of that bin are over, or not known; what is here can be handed over.'
          : 'The days of that bin are not over yet, and what is here can be handed over.',
      daysLeft: matching.leastDaysLeft,
    }),
  ),
  found(
    'earlier-found',
    ['earlier'],
    ({ matching }) => matching.earlier,
    ({ matching }) => ({
      do: `Look at ${counted(matching.earlier)} that only an older source of this job still shows.`,
      why: 'Newer sources show that they are gone; nothing needs to be rebuilt.',
    }),
  ),
  found(
    'rebuilt-found',
    ['rebuilt', 'partial'],
    ({ matching }) => matching.rebuilt + matching.partial,
    ({ matching }) => ({
      do: `Look at ${counted(matching.rebuilt + matching.partial)} from leftovers (${partsOf(matching)}).`,
      why: 'They were put together from what the databases still held: the owner says which are right.',
    }),
  ),
  found(
    'elsewhere-found',
    ['elsewhere'],
    ({ matching }) => matching.elsewhere,
    ({ matching }) => ({
      do: `Look at ${counted(matching.elsewhere)} on another device or in the account.`,
      why: 'No source shows that they ever were on the device of the brief. The owner says whether they are what is sought.',
    }),
  ),
]

/** The rules of the route, in their order: each looks at the facts and proposes steps, or none. */
export const ROUTE_RULES: readonly Rule[] = [...FOUND_RULES, ...READ_RULES, ...PLACE_RULES]

/**
 * The next steps (docs/truth.md, rule 16): what was found first, then what can be read, places that are known, what only
 * the owner can bring, a full restore last. None that was carried out.
 */
export function routeOf(facts: RouteFacts): RouteStep[] {
  return ROUTE_RULES.filter(({ id }) => !facts.done.includes(id)).flatMap((rule) =>
    rule.steps(facts).map((one) => ({ rule: rule.id, ...one })),
  )
}
