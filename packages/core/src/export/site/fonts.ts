import { readFile } from 'node:fs/promises'

/** A part of a font for the scripts that owners write in: some letters of it, as a file of its own (WOFF2). */
export interface FontSlice {
  family: string
  /** As in CSS Fonts Module Level 4, section 4.5: U+0600-06FF,U+200C. */
  range: string
  file: string
  /** For PDF alone: browsers show such letters in a font of their computer, in colours. */
  paperOnly?: boolean | undefined
}

// Below, letters are those of the font that the style has in it.
const FIRST_LETTER = 0x250
const CODE_POINTS = 0x110000

/** The letters of all texts of a package, a bit each. */
export class LettersUsed {
  readonly #bits = new Uint8Array(CODE_POINTS / 8)

  see(text: string): void {
    if (!/[\u0250-\uffff]/.test(text)) return
    for (const letter of text) {
      const point = letter.codePointAt(0) as number
      if (point >= FIRST_LETTER) this.#bits[point >>> 3] = (this.#bits[point >>> 3] as number) | (1 << (point & 7))
    }
  }

  /** Whether one of a range's letters was seen. */
  anyOf(range: string): boolean {
    return spansOf(range).some(([first, last]) => {
      for (let point = first; point <= Math.min(last, CODE_POINTS - 1); point++)
        if (((this.#bits[point >>> 3] as number) >>> (point & 7)) & 1) return true
      return false
    })
  }
}

export const isInRange = (point: number, range: string): boolean =>
  spansOf(range).some(([first, last]) => point >= first && point <= last)

const spansOf = (range: string): [first: number, last: number][] =>
  range.split(',').map((part) => {
    const [first = NaN, last = first] = part
      .replace(/^U\+/, '')
      .split('-')
      .map((point) => Number.parseInt(point, 16))
    return [first, last]
  })

/** A style with the parts of fonts that have these letters; empty where none is needed. */
export async function fontStyle(letters: LettersUsed, slices: readonly FontSlice[]): Promise<string> {
  const faces: string[] = []
  for (const { family, range, file, paperOnly } of slices) {
    if (paperOnly || !letters.anyOf(range)) continue
    // Inside of the style: a page out of a folder may load no font beside it.
    const data = (await readFile(file)).toString('base64')
    faces.push(
      `@font-face{font-family:"${family}";font-weight:100 900;font-display:swap;unicode-range:${range};src:url(data:font/woff2;base64,${data}) format("woff2")}\n`,
    )
  }
  return faces.join('')
}
