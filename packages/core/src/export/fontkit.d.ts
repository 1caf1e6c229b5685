declare module 'fontkit' {
  /** A font file, parsed as far as it is used. */
  export interface Font {
    /** Its tables of how letters change beside others, and where they stand; without both it is laid out as it is written. */
    GSUB?: object
    GPOS?: object
    hasGlyphForCodePoint(point: number): boolean
    layout(
      text: string,
      features?: readonly string[],
      script?: string,
      language?: string,
      direction?: 'ltr' | 'rtl',
    ): GlyphRun
  }
  /** Glyphs from left to right, in units of the font. */
  export interface GlyphRun {
    glyphs: object[]
    positions: { xAdvance: number }[]
    readonly advanceWidth: number
  }
  export function openSync(path: string): Font
  export function create(bytes: Uint8Array): Font
}
