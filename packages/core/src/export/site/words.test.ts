import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BagWriter } from '../bag.js'
import { SearchIndex } from './search-index.js'
import { wordsOf } from './words.js'

describe('words of a text', () => {
  it.each([
    ['Der Vorhang hängt schief', ['der', 'vorhang', 'hangt', 'schief']],
    ['ﬁne Ångström', ['fine', 'angstrom']],
    ['+1 (202) 555-0100', ['202', '555', '0100']],
    ['東京タワー', ['東京', '京タ', 'タワ', 'ワ']],
    ['كل شيء', ['كل', 'شيء']],
    ['', []],
  ])('%s', (text, words) => {
    expect([...wordsOf(text)]).toEqual(words)
  })
})

describe('the index of words', () => {
  it('holds every word of every text, however often it was written aside', async () => {
    const text = fc.array(fc.constantFrom('tent', 'rope', 'mill', 'quay', 'Ropes', 'tents'), { maxLength: 8 })
    await fc.assert(
      fc.asyncProperty(fc.array(text, { maxLength: 40 }), fc.integer({ min: 1, max: 30 }), async (texts, mostHeld) => {
        const folder = mkdtempSync(join(tmpdir(), 'lumbrin-words-'))
        const bag = await BagWriter.create(join(folder, 'bag'))
        const pieces: string[] = []
        bag.write = async (_path, content) => {
          pieces.push(String(content))
          return { path: '', bytes: 0, sha256: '' }
        }
        const index = new SearchIndex(join(folder, 'words'), mostHeld)
        for (const [number, words] of texts.entries()) await index.add(number, words.join(' '))
        await index.finish(bag)
        await bag.discard()
        rmSync(folder, { recursive: true, force: true })
        const found = new Map<string, number[]>()
        for (const piece of pieces)
          for (const [word, distances] of JSON.parse(/^lumbrinPart\("words-\d+",(.*)\)\n$/.exec(piece)?.[1] ?? '[]')) {
            let number = 0
            found.set(
              word,
              distances.map((distance: number) => (number += distance)),
            )
          }
        const wanted = new Map<string, number[]>()
        for (const [number, words] of texts.entries())
          for (const word of new Set(words.map((one) => one.toLowerCase())))
            wanted.set(word, [...(wanted.get(word) ?? []), number])
        expect(found).toEqual(new Map([...wanted].sort(([a], [b]) => (a < b ? -1 : 1))))
      }),
      { numRuns: 40 },
    )
  })
})
