import bidiFactory from 'bidi-js'
import type { Font, GlyphRun } from 'fontkit'

const bidi = bidiFactory()
// Letters that read from right to left are all in here (those above U+FFFF aside); lines without any stay as they are.
const RIGHT_TO_LEFT = /[\u0590-\u08ff\ufb1d-\ufdff\ufe70-\ufefc]/
/** Object replacement character. */
const NEUTRAL = '\ufffc'

interface DirectionalRun {
  text: string
  direction: 'ltr' | 'rtl'
}

/**
 * A font that lays out a line's letters in the order in which they are read: fontkit by itself knows one direction a line.
 */
export function inBothDirections(font: Font): Font {
  // Its class and tables stay: only the layout is another.
  return Object.create(font, {
    layout: {
      value: (line: string) =>
        RIGHT_TO_LEFT.test(line)
          ? new LineOfGlyphs(directionalRuns(line).map((run) => layRun(font, run)))
          : font.layout(line),
    },
  })
}

function layRun(font: Font, { text, direction }: DirectionalRun): GlyphRun {
  const run = font.layout(text, undefined, undefined, undefined, direction)
  if (direction === 'rtl' && !font.GSUB && !font.GPOS) {
    run.glyphs.reverse()
    run.positions.reverse()
  }
  return run
}

/** As much of fontkit's GlyphRun as pdfkit reads, which scales the positions before it asks how wide they are. */
class LineOfGlyphs implements GlyphRun {
  readonly glyphs: GlyphRun['glyphs']
  readonly positions: GlyphRun['positions']

  constructor(runs: readonly GlyphRun[]) {
    this.glyphs = runs.flatMap(({ glyphs }) => glyphs)
    this.positions = runs.flatMap(({ positions }) => positions)
  }

  get advanceWidth(): number {
    return this.positions.reduce((sum, { xAdvance }) => sum + xAdvance, 0)
  }
}

/**
 * The parts of a line from left to right, each in the order of its letters' writing and with its brackets turned
 * (Unicode Standard Annex 9, rules L2 and L4). The line as a whole reads from left to right.
 */
export function directionalRuns(line: string): DirectionalRun[] {
  const letters = [...line]
  // bidi-js works on UTF-16 units: a character of two of them (mostly an emoji) is shown to it as one without a direction.
  const units = letters.map((letter) => (letter.length === 1 ? letter : NEUTRAL)).join('')
  const embedding = bidi.getEmbeddingLevels(units, 'ltr')
  const mirrored = bidi.getMirroredCharactersMap(units, embedding.levels)
  const runs: DirectionalRun[] = []
  let last = -1
  for (const at of bidi.getReorderedIndices(units, embedding)) {
    const isTurned = (embedding.levels[at] as number) % 2 === 1
    const direction = isTurned ? 'rtl' : 'ltr'
    const letter = mirrored.get(at) ?? (letters[at] as string)
    const run = runs.at(-1)
    if (run?.direction !== direction || at !== last + (isTurned ? -1 : 1)) runs.push({ text: letter, direction })
    else run.text = isTurned ? letter + run.text : run.text + letter
    last = at
  }
  return runs
}
