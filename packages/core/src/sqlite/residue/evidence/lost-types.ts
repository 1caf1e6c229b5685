import type { TextEncoding } from '../../header.js'
import { serialSize } from '../../record.js'
import { isExpected, likelihood } from './likelihood.js'
import type { Profile } from './profile.js'

// By how many bits a reading must be likelier than all others together to be believed: 8 to 1.
const LEAST_ODDS = 3

/** Types that a value of this size can have, by its bytes alone. */
const TYPES_OF_SIZE: Record<number, readonly number[]> = {
  0: [0, 8, 9],
  1: [1],
  2: [2],
  3: [3],
  4: [4],
  6: [5],
  8: [6, 7],
}

/** Types that were lost, and the probability that they were these. */
export interface LikelyTypes {
  types: number[]
  chance: number
}

/**
 * The serial types of a record's first values, one or two, which were overwritten; the values themselves, `size` bytes
 * from `at`, are there. Undefined where another reading is as likely: the value is left out then.
 */
export function likelyTypes(
  bytes: Uint8Array,
  at: number,
  size: number,
  count: number,
  profile: Profile,
  encoding: TextEncoding,
): LikelyTypes | undefined {
  // Only what live rows hold tells two types apart.
  if (count === 2 && !profile.fitted) return undefined
  const readings: { types: number[]; bits: number }[] = []
  for (const type of count === 1 ? typesOf(size) : typesUpTo(size)) {
    const first = likelihood(profile, 0, bytes, at, type, encoding)
    if (first === undefined) continue
    if (count === 1) readings.push({ types: [type], bits: first })
    else
      for (const next of typesOf(size - serialSize(type))) {
        const second = likelihood(profile, 1, bytes, at + serialSize(type), next, encoding)
        if (second !== undefined) readings.push({ types: [type, next], bits: first + second })
      }
  }
  const [best, ...others] = readings.sort((a, b) => b.bits - a.bits)
  const rest = others.reduce((sum, { bits }) => sum + 2 ** bits, 0)
  // What no live row has there, and no declaration asks for, is not believed only because no other reading is better.
  if (!best?.types.every((type, position) => isExpected(profile, position, type))) return undefined
  const odds = best.bits - Math.log2(rest)
  return odds >= LEAST_ODDS ? { types: best.types, chance: 1 / (1 + 2 ** -odds) } : undefined
}

const typesOf = (size: number): number[] => [...(TYPES_OF_SIZE[size] ?? []), 12 + 2 * size, 13 + 2 * size]

function typesUpTo(size: number): number[] {
  const types: number[] = []
  for (let part = 0; part <= size; part++) types.push(...typesOf(part))
  return types
}
