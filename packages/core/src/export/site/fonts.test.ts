import { writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../../../../../tests/setup/fixtures.js'
import { fontStyle, LettersUsed } from './fonts.js'

const seen = (...texts: string[]) => {
  const letters = new LettersUsed()
  for (const text of texts) letters.see(text)
  return letters
}

describe('fonts of a package', () => {
  it.each([
    ['U+0600-06FF', 'مسرح', true],
    ['U+0600-06FF', 'Žofie Müller', false],
    ['U+4e00,U+6f22-6f23', 'é漢😀', true],
    ['U+6f23', 'é漢😀', false],
    // Beyond the first 65,536, as a pair of surrogates.
    ['U+25ee8-25f00', '\u{25eff}', true],
    ['U+1F600', 'é漢😀', true],
    ['U+10FFFF-FFFFFFFF', 'a', false],
  ])('%s are letters of "%s": %s', (range, text, expected) => {
    expect(seen('plain', text).anyOf(range)).toBe(expected)
  })

  it('lie inside of a style, those alone that are needed', async () => {
    const folder = scratchFolder()
    const slices = ['one', 'other'].map((name, i) => ({
      family: `Noto ${name}`,
      range: i === 0 ? 'U+0590-05FF' : 'U+0600-06FF',
      file: join(folder, name),
    }))
    for (const { file } of slices) writeFileSync(file, 'wOF2')
    const style = await fontStyle(seen('תיאטרון'), slices)
    expect(style).toContain('font-family:"Noto one"')
    expect(style).toContain(`base64,${Buffer.from('wOF2').toString('base64')}`)
    expect(style).not.toContain('Noto other')
    expect(await fontStyle(seen('theatre'), slices)).toBe('')
  })
})
