// Fit for the browser: what was indexed and what is asked for must part into words alike.

const WITHOUT_GAPS = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]/u
const STRETCHES = /[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}]+|[\p{L}\p{N}]+/gu
const SHORTEST = 2

/** A text as words are compared: without case, accents, and other ways to write the same (Unicode's form NFKD). */
export const plainWords = (text: string): string => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase()

/**
 * The words of a text, each once. Scripts that leave no gaps between words (Chinese, Japanese) give each pair of
 * neighbours, and the last character alone: whoever asks for one character finds it as a beginning.
 */
export function wordsOf(text: string): Set<string> {
  const words = new Set<string>()
  for (const [stretch] of plainWords(text).matchAll(STRETCHES)) {
    if (WITHOUT_GAPS.test(stretch)) addPairs(words, stretch)
    else if (stretch.length >= SHORTEST) words.add(stretch)
  }
  return words
}

function addPairs(words: Set<string>, stretch: string): void {
  const characters = [...stretch]
  for (const [i, character] of characters.entries()) words.add(character + (characters[i + 1] ?? ''))
}
