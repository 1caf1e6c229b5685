import type { SiteWords } from '@lumbrin/core/export/site/shapes'
import { wordsOf } from '@lumbrin/core/export/site/words'
import fc from 'fast-check'
import { describe, expect, it, vi } from 'vitest'
import { partsFor, search } from './search.js'

/** An index of words of these texts, in parts of so many words, as the writer makes it. */
function indexOf(texts: readonly string[], wordsAPart: number) {
  const numbers = new Map<string, number[]>()
  for (const [number, text] of texts.entries())
    for (const word of wordsOf(text)) numbers.set(word, [...(numbers.get(word) ?? []), number])
  const words: SiteWords = [...numbers].sort(([a], [b]) => (a < b ? -1 : 1))
  const parts: SiteWords[] = []
  for (let at = 0; at < words.length; at += wordsAPart)
    parts.push(
      words.slice(at, at + wordsAPart).map(([word, all]) => [word, all.map((one, i) => one - (all[i - 1] ?? 0))]),
    )
  const firsts = parts.map((part) => part[0]?.[0] ?? '')
  const load = vi.fn(async (part: number) => parts[part] ?? [])
  return { firsts, load, found: async (text: string) => (await search(text, firsts, load)).numbers }
}

const TEXTS = ['The tent is wet', 'Tents and ropes', 'Der Vorhang hängt', 'ropes, ropes', '東京タワーへ', '']

describe('a search in the pages of a package', () => {
  it.each([
    ['tent', [0, 1]],
    ['TENTS', [1]],
    ['rope', [1, 3]],
    ['tent rope', [1]],
    ['hangt', [2]],
    ['hängt vorhang', [2]],
    ['東京', [4]],
    ['東', [4]],
    ['nothing', []],
    ['', []],
    ['  ,. ', []],
  ])('for "%s" finds %j', async (text, numbers) => {
    for (const wordsAPart of [1, 2, 100]) expect(await indexOf(TEXTS, wordsAPart).found(text)).toEqual(numbers)
  })

  it('finds what a look at every text finds, whatever the parts', async () => {
    const word = fc.constantFrom('tent', 'tents', 'ten', 'rope', 'mill', 'miller', 'a1', 'zoo')
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.array(word, { maxLength: 4 }), { maxLength: 20 }),
        fc.array(word, { minLength: 1, maxLength: 3 }),
        fc.integer({ min: 1, max: 5 }),
        async (texts, wanted, wordsAPart) => {
          const naive = texts.flatMap((words, i) =>
            wanted.every((one) => words.some((other) => other.startsWith(one))) ? [i] : [],
          )
          const index = indexOf(
            texts.map((words) => words.join(' ')),
            wordsAPart,
          )
          expect(await index.found(wanted.join(' '))).toEqual(naive)
        },
      ),
    )
  })

  it('loads only the parts in which the words may stand, and says where a beginning is too short', async () => {
    const texts = Array.from({ length: 60 }, (_, i) => `ab${String(i).padStart(2, '0')} zz${i}`)
    const index = indexOf(texts, 3)
    expect(await index.found('zz59')).toEqual([59])
    expect(index.load.mock.calls.length).toBeLessThanOrEqual(2)
    expect(partsFor('ab', index.firsts).length).toBeGreaterThan(8)
    expect((await search('ab', index.firsts, index.load)).cut).toEqual(['ab'])
    expect((await search('ab59', index.firsts, index.load)).cut).toEqual([])
  })
})
