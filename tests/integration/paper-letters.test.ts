import { writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { Paper } from '../../packages/core/src/export/paper.js'
import { fontOfAll, lettersIn } from '../../packages/core/src/export/paper-fonts.js'
import { ownersFonts } from '../../scripts/setup/fonts.mjs'
import { scratchFolder, tool } from '../setup/fixtures.js'

const PLAIN = createRequire(join(import.meta.dirname, '../../packages/core/package.json')).resolve(
  'dejavu-fonts-ttf/ttf/DejaVuSans.ttf',
)

async function paperOf(words: string, write: (paper: Paper) => void): Promise<string> {
  const file = join(scratchFolder(), 'paper.pdf')
  writeFileSync(file, await Paper.write({ title: 'Letters', says: [words], slices: ownersFonts() }, write))
  expect(tool('qpdf', '--check', file)).toContain('No syntax or stream encoding errors')
  return file
}

describe('paper', () => {
  it('writes names in the scripts of their owners, in lines, lists and cells, and general tools read them', async () => {
    const names = 'Żofia · 山田花子 · 김민지 · 张伟 · 🌻 · Ольга · נועה · ليلى'
    const file = await paperOf(names, (paper) => {
      paper.title(names)
      paper.paragraph(`Found for ${names}`)
      paper.list([names])
      paper.facts([['For', names]], 90)
    })
    // Poppler, from Debian's poppler-utils.
    const text = tool('pdftotext', '-raw', file, '-').replace(/\s+/g, '')
    for (const name of ['Żofia', '山田花子', '김민지', '张伟', '🌻', 'Ольга'])
      expect(text.split(name).length - 1, name).toBe(4)
    expect(text).not.toContain('□')
  })

  it('shows a letter that no font has as such, and keeps its own font where that has all', async () => {
    const file = await paperOf('Zoë \u{13000}', (paper) => paper.paragraph('Zoë \u{13000}'))
    expect(tool('pdftotext', file, '-')).toContain('Zoë □')
    expect(tool('pdffonts', file)).not.toContain('Letters')
  })

  it('takes letters as wide as their font has them', async () => {
    const bytes = await fontOfAll(lettersIn({ of: ['山', 'A'] }), PLAIN, ownersFonts())
    const { default: opentype } = await import('opentype.js')
    const font = opentype.parse(bytes as ArrayBuffer)
    expect(font.charToGlyph('山').advanceWidth).toBe(1000)
    // DejaVu's A is 1401 of 2048 wide.
    expect(font.charToGlyph('A').advanceWidth).toBe(684)
  })

  it('is not made anew of what the plain font has', async () => {
    expect(await fontOfAll(lettersIn('Zoë'), PLAIN, ownersFonts())).toBeNull()
  })
})
