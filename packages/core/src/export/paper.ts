import { createRequire } from 'node:module'
import type { Font } from 'fontkit'
import { inBothDirections } from './paper-directions.js'
import { fontOfAll, lettersIn, writable } from './paper-fonts.js'
import { plainText } from './plain-text.js'
import type { FontSlice } from './site/fonts.js'

const find = createRequire(import.meta.url)
const PLAIN = 'plain'
const BOLD = 'bold'
/** With all letters of the document, where the other two lack some. */
const WIDE = 'wide'
// In points: A4 with margins of 2 cm.
const MARGIN = 57
const WIDTH = 595 - 2 * MARGIN
const SOFT = '#555'
/** That features are named, if none, makes the library lay out whole lines in place of words, each by itself. */
const WHOLE_LINES = { features: [] }

type Widths = (number | '*')[]
interface Cell {
  text: string
  font?: { src: string; size: number }
}
const HEAD = { type: 'TH', font: { src: BOLD, size: 9 } }

const PLAIN_FILE = find.resolve('dejavu-fonts-ttf/ttf/DejaVuSans.ttf')

let parsed: Promise<Map<string, Font>> | undefined

/** The fonts of all documents, parsed once: that costs more than to write one. */
function fontsOfAll(): Promise<Map<string, Font>> {
  parsed ??= import('fontkit').then(
    ({ openSync }) =>
      new Map([
        [PLAIN, inBothDirections(openSync(PLAIN_FILE))],
        [BOLD, inBothDirections(openSync(find.resolve('dejavu-fonts-ttf/ttf/DejaVuSans-Bold.ttf')))],
      ]),
  )
  return parsed
}

const hasLetter = (font: Font | undefined, letter: string): boolean =>
  font?.hasGlyphForCodePoint(letter.codePointAt(0) as number) ?? false

/** The fonts of a document that says this. */
async function fontsFor(says: unknown, slices: readonly FontSlice[]): Promise<Map<string, Font>> {
  const fonts = new Map(await fontsOfAll())
  const letters = lettersIn(says)
  // Most documents need no more: putting a font together parses all of this one once more, for some tens of megabytes.
  if ([...letters].every((letter) => letter < ' ' || hasLetter(fonts.get(PLAIN), letter))) return fonts
  const wide = await fontOfAll(letters, PLAIN_FILE, slices)
  if (wide) fonts.set(WIDE, inBothDirections((await import('fontkit')).create(Buffer.from(wide))))
  return fonts
}

/**
 * A printable document that says of all it holds what it is (tagged PDF 1.7, ISO 32000-1, 14.8; as far as the library goes
 * PDF/UA, ISO 14289-1): readers who cannot see it are read its headings, lists and tables as such.
 */
export class Paper {
  private constructor(
    readonly document: PDFKit.PDFDocument,
    readonly root: PDFKit.PDFStructureElement,
    readonly fonts: ReadonlyMap<string, Font>,
  ) {}

  /**
   * Writes a document. `says`: whatever holds all that it will say; letters that the document's own font lacks are taken
   * from `slices`, and are shown as □ where those lack them too.
   * @returns its bytes
   */
  static async write(
    { title, says, slices }: { title: string; says: unknown; slices: readonly FontSlice[] },
    write: (paper: Paper) => void,
  ): Promise<Uint8Array> {
    // Loaded with the first one: whoever only reads a source need not wait for it.
    const { default: PDFDocument } = await import('pdfkit')
    const document = new PDFDocument({
      ...{
        size: 'A4',
        margin: MARGIN,
        pdfVersion: '1.7',
        subset: 'PDF/UA',
        tagged: true,
        displayTitle: true,
        lang: 'en',
      },
      info: { Title: title, Producer: 'Lumbrin' },
      // The library's types know no "PDF/UA", which it writes.
    } as never)
    const pieces: Uint8Array[] = []
    const ended = new Promise<void>((resolve, reject) => {
      document.on('data', (piece: Uint8Array) => pieces.push(piece))
      document.once('end', () => resolve())
      document.once('error', reject)
    })
    const fonts = await fontsFor(says, slices)
    for (const [name, font] of fonts) document.registerFont(name, font as never)
    const root = document.struct('Document')
    document.addStructure(root)
    write(new Paper(document, root, fonts))
    root.end()
    document.end()
    await ended
    return Buffer.concat(pieces)
  }

  title(words: string): void {
    this.document.fontSize(18)
    this.#say('H1', words, BOLD)
  }

  head(words: string): void {
    // A head does not stand alone at the foot of a page.
    this.room(60)
    this.document.moveDown().fontSize(12)
    this.#say('H2', words, BOLD)
    this.document.moveDown(0.3)
  }

  paragraph(words: string, { soft = false, size = 10 } = {}): void {
    this.document.fontSize(size).fillColor(soft ? SOFT : '#000')
    this.#say('P', words)
    this.document.font(PLAIN).fillColor('#000').moveDown(0.3)
  }

  list(lines: readonly string[]): void {
    this.document.fontSize(10)
    const list = this.document.struct('L')
    this.root.add(list)
    for (const line of lines) {
      const item = this.document.struct('LI')
      list.add(item)
      this.#say('LBody', `•  ${line}`, PLAIN, item)
      item.end()
    }
    this.document.font(PLAIN)
    list.end()
  }

  /** A table whose first row is its head. `widths`: of the columns, in points; "*": what is left. */
  table([head = [], ...rows]: readonly (readonly string[])[], widths: Widths): void {
    const isNumeric = (column: number) => column > 0 && rows.every((row) => /^[\d,.]*$/.test(row[column] ?? ''))
    const cell = (text: string, column: number) => ({
      text,
      align: { x: isNumeric(column) ? 'right' : 'left', y: 'top' },
    })
    this.#table(
      [
        head.map((text, column) => ({ ...cell(text, column), ...HEAD, scope: 'Column' })),
        ...rows.map((row) => row.map((text, column) => ({ ...cell(text, column), type: 'TD' }))),
      ],
      widths,
    )
  }

  /** Labels with what they say, a row each. */
  facts(facts: readonly (readonly [label: string, value: string])[], width: number): void {
    const rows = facts.map(([label, value]) => [
      { text: label, ...HEAD, scope: 'Row' },
      { text: value, type: 'TD' },
    ])
    if (rows.length > 0) this.#table(rows, [width, '*'])
  }

  #table(rows: readonly (readonly Cell[])[], widths: Widths): void {
    this.document.font(PLAIN).fontSize(9)
    this.document.table({
      structParent: this.root,
      columnStyles: widths,
      defaultStyle: { border: { top: 0, left: 0, right: 0, bottom: 0.5 }, borderColor: '#bbb', padding: [3, 6, 3, 0] },
      data: rows.map((row) =>
        row.map((one) => {
          const { text, font } = this.#written(one.text, one.font?.src ?? PLAIN)
          return { ...one, text, textOptions: WHOLE_LINES, font: { src: font, size: one.font?.size ?? 9 } }
        }),
      ),
    } as never)
    this.document.x = MARGIN
    this.document.font(PLAIN).fontSize(10).moveDown(0.5)
  }

  /** Pictures in rows, each with its words for those who cannot see it. */
  pictures(pictures: readonly { bytes: Uint8Array; alt: string }[], columns: number): void {
    const cell = WIDTH / columns
    for (let at = 0; at < pictures.length; at += columns) {
      this.room(cell)
      const top = this.document.y
      for (const [i, { bytes, alt }] of pictures.slice(at, at + columns).entries())
        this.#figure(alt, () =>
          this.document.image(Buffer.from(bytes), MARGIN + i * cell, top, {
            fit: [cell - 6, cell - 6],
            align: 'center',
            valign: 'center',
          }),
        )
      this.document.y = top + cell
    }
    this.document.x = MARGIN
  }

  /** A mark at the page's right edge, no higher than so many points. */
  mark(bytes: Uint8Array, alt: string, height: number): void {
    this.#figure(alt, () =>
      this.document.image(Buffer.from(bytes), MARGIN + WIDTH - 140, MARGIN, { fit: [140, height], align: 'right' }),
    )
    this.document.x = MARGIN
    this.document.y = MARGIN
  }

  /** A line to write on, with what belongs there below it. */
  lines(labels: readonly string[]): void {
    this.room(60)
    this.document.moveDown(2.5)
    const top = this.document.y
    const width = WIDTH / labels.length
    for (const [i, label] of labels.entries()) {
      const left = MARGIN + i * width
      const artifact = this.document.markContent('Artifact', { type: 'Layout' } as never)
      artifact
        .moveTo(left, top)
        .lineTo(left + width - 16, top)
        .lineWidth(0.5)
        .stroke()
      this.document.endMarkedContent()
      this.document.font(PLAIN).fontSize(8)
      this.document.text(label, left, top + 4, {
        ...{ width: width - 16, structParent: this.root, structType: 'P' },
        ...WHOLE_LINES,
      } as never)
    }
    this.document.x = MARGIN
  }

  newPage(): void {
    this.document.addPage()
  }

  /** Goes to a new page where less than so many points are left. */
  room(points: number): void {
    if (this.document.y + points > this.document.page.height - MARGIN) this.document.addPage()
  }

  #figure(alt: string, draw: () => void): void {
    const figure = this.document.struct('Figure', { alt: plainText(alt) }, draw as never)
    this.root.add(figure)
    figure.end()
  }

  #say(type: string, words: string, font = PLAIN, parent = this.root): void {
    const written = this.#written(words, font)
    this.document.font(written.font)
    this.document.text(written.text, MARGIN, undefined, {
      ...{ structParent: parent, structType: type },
      ...WHOLE_LINES,
    } as never)
  }

  /** Text in the font that it is written in: the one that is wanted, if that has its letters. */
  #written(words: string, wanted: string): { text: string; font: string } {
    const text = plainText(words)
    const lacks = (font: string) => [...text].some((letter) => !this.#has(font, letter))
    const font = lacks(wanted) && this.fonts.has(WIDE) ? WIDE : wanted
    return { text: writable(text, (letter) => this.#has(font, letter)), font }
  }

  #has = (font: string, letter: string): boolean => hasLetter(this.fonts.get(font), letter)
}
