import { wordsToMark } from '../domain/search-text'

/** A text with the searched words and phrases marked. */
export function Highlighted({ text, words }: { text: string; words: string }) {
  const wanted = wordsToMark(words)
  if (wanted.length === 0) return <>{text}</>
  const pattern = new RegExp(`(${wanted.map((word) => word.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')).join('|')})`, 'giu')
  // Every second part is one that the pattern caught; a text's parts never change places.
  // biome-ignore lint/suspicious/noArrayIndexKey: see above
  return <>{text.split(pattern).map((part, i) => (i % 2 === 1 ? <mark key={`${i}-${part}`}>{part}</mark> : part))}</>
}
