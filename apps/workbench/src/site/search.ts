import type { SiteWords } from '@lumbrin/core/export/site/shapes'
import { plainWords, wordsOf } from '@lumbrin/core/export/site/words'

// Parts that are loaded for one prefix at most: two letters may be those of half the index.
const MOST_PARTS = 8

/** What was found: numbers of items in their order. `cut`: beginnings so short that not all could be looked for. */
export interface Found {
  numbers: number[]
  cut: string[]
}

/** The parts of the word index that may hold words with this prefix; `firsts`: the first word of each part. */
export function partsFor(beginning: string, firsts: readonly string[]): number[] {
  return firsts.flatMap((first, i) => {
    const next = firsts[i + 1]
    const tooEarly = next !== undefined && next <= beginning && !next.startsWith(beginning)
    const tooLate = first > beginning && !first.startsWith(beginning)
    return tooEarly || tooLate ? [] : [i]
  })
}

/** Items that have, for each word of the search, a word with that prefix. */
export async function search(
  text: string,
  firsts: readonly string[],
  load: (part: number) => Promise<SiteWords>,
): Promise<Found> {
  const cut: string[] = []
  let found: number[] | undefined
  for (const word of wanted(text)) {
    const parts = partsFor(word, firsts)
    if (parts.length > MOST_PARTS) cut.push(word)
    const lists = await Promise.all(parts.slice(0, MOST_PARTS).map(load))
    const having = numbersWith(word, lists.flat())
    found = found === undefined ? [...having].sort((a, b) => a - b) : found.filter((number) => having.has(number))
    if (found.length === 0) break
  }
  return { numbers: found ?? [], cut }
}

/** The words that are looked for, the longest first, being the rarest as a rule. */
const wanted = (text: string): string[] => {
  const words = [...wordsOf(text)]
  // A character that stands alone at the end of its stretch is only a beginning of those that hold it.
  const all = words.length > 0 ? words : [plainWords(text).trim()].filter(Boolean)
  const needed = all.filter((word) => !all.some((other) => other !== word && other.endsWith(word) && word.length === 1))
  return needed.sort((a, b) => b.length - a.length)
}

function numbersWith(beginning: string, words: SiteWords): Set<number> {
  const numbers = new Set<number>()
  for (const [word, distances] of words) {
    if (!word.startsWith(beginning)) continue
    let number = 0
    for (const distance of distances) {
      number += distance
      numbers.add(number)
    }
  }
  return numbers
}
