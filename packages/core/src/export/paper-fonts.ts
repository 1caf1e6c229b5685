import { readFile } from 'node:fs/promises'
import type { Font, Glyph, PathCommand } from 'opentype.js'
import { type FontSlice, isInRange } from './site/fonts.js'

/** Units per em of the font that is made. */
const EM = 1000
const WEIGHT = 400
// What papers say of themselves is in it too.
const OF_PAPERS = `${String.fromCharCode(...Array.from({ length: 95 }, (_, i) => 32 + i))}•·□“”‘’–—…`
// Marks that choose how the letter before them looks, and joiners: paper shows letters one by one.
const UNSEEN = /[\ufe00-\ufe0f\u200b-\u200f\u2060\ufeff]/g

/** All letters of the texts that a value holds, however deep. */
export function lettersIn(value: unknown, letters = new Set<string>()): Set<string> {
  if (typeof value === 'string') for (const letter of value) letters.add(letter)
  else if (Array.isArray(value)) for (const one of value) lettersIn(one, letters)
  else if (value !== null && typeof value === 'object' && !ArrayBuffer.isView(value))
    lettersIn(Object.values(value), letters)
  return letters
}

/**
 * A font for texts with letters that `plain` (a TrueType file) lacks: a line of a document has one font, and so this one
 * holds all the letters, each as the first font has it. Letters stand one by one in it: scripts whose letters change with
 * their neighbours need a font of their own.
 * @returns the font (OpenType, ISO/IEC 14496-22); null: `plain` has all letters, or no other font has those it lacks
 */
export async function fontOfAll(
  letters: ReadonlySet<string>,
  plain: string,
  slices: readonly FontSlice[],
): Promise<ArrayBuffer | null> {
  const { parse, Font, Glyph, Path } = (await import('opentype.js')).default
  const glyphs = new Map<string, Glyph>()
  const wanted = new Set([...OF_PAPERS, ...letters])
  const takeFrom = (font: Font) => {
    for (const letter of wanted) {
      if (glyphs.has(letter) || font.charToGlyphIndex(letter) === 0) continue
      const glyph = font.charToGlyph(letter)
      const path = new Path()
      path.commands = glyph.getPath(0, 0, EM, { variation: { wght: WEIGHT } }, font).commands.map(upright)
      const advanceWidth = Math.round(((glyph.advanceWidth ?? font.unitsPerEm) * EM) / font.unitsPerEm)
      const unicode = letter.codePointAt(0) as number
      glyphs.set(letter, new Glyph({ name: `u${unicode.toString(16)}`, unicode, advanceWidth, path }))
    }
  }
  const base = parse(bufferOf(await readFile(plain)))
  takeFrom(base)
  const ofPlain = glyphs.size
  for (const { range, file } of slices) {
    const isWanted = [...letters].some(
      (letter) => !glyphs.has(letter) && isInRange(letter.codePointAt(0) as number, range),
    )
    if (isWanted) takeFrom(parse(await sfntOf(file)))
  }
  if (glyphs.size === ofPlain) return null
  const nothing = new Glyph({ name: '.notdef', unicode: 0, advanceWidth: EM / 2, path: new Path() })
  return new Font({
    ...{ familyName: 'Letters', styleName: 'Regular', unitsPerEm: EM },
    ...{ ascender: (base.ascender * EM) / base.unitsPerEm, descender: (base.descender * EM) / base.unitsPerEm },
    glyphs: [nothing, ...glyphs.values()],
  }).toArrayBuffer()
}

/** Text as a font can show it: □ in place of letters that it lacks. */
export const writable = (text: string, has: (letter: string) => boolean): string =>
  [...text.replace(UNSEEN, '')].map((letter) => (has(letter) ? letter : '□')).join('')

/** A compressed font (WOFF2) as what it was before. */
async function sfntOf(file: string): Promise<ArrayBuffer> {
  const { default: decompress } = await import('woff2-encoder/decompress')
  return bufferOf(await decompress(await readFile(file)))
}

const bufferOf = (bytes: Uint8Array): ArrayBuffer => new Uint8Array(bytes).buffer

/** Paths are drawn downwards from the line, letters are kept upwards. */
function upright(command: PathCommand): PathCommand {
  const turned = { ...command }
  for (const key of ['y', 'y1', 'y2'] as const) if (turned[key] !== undefined) turned[key] = -turned[key]
  return turned
}
