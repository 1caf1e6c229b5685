declare module 'opentype.js' {
  /** The library's own types, as far as it is used. */
  export interface PathCommand {
    type: string
    x?: number
    y?: number
    x1?: number
    y1?: number
    x2?: number
    y2?: number
  }
  export class Path {
    commands: PathCommand[]
  }
  export class Glyph {
    constructor(options: { name: string; unicode: number; advanceWidth: number; path: Path })
    advanceWidth?: number
    getPath(x: number, y: number, size: number, options: { variation: Record<string, number> }, font: Font): Path
  }
  export class Font {
    constructor(options: {
      familyName: string
      styleName: string
      unitsPerEm: number
      ascender: number
      descender: number
      glyphs: Glyph[]
    })
    unitsPerEm: number
    ascender: number
    descender: number
    charToGlyphIndex(letter: string): number
    charToGlyph(letter: string): Glyph
    toArrayBuffer(): ArrayBuffer
  }
  const opentype: { parse(file: ArrayBuffer): Font; Font: typeof Font; Glyph: typeof Glyph; Path: typeof Path }
  export default opentype
}
