declare module 'fontkit' {
  /** A font file, parsed as far as it is used. */
  export interface Font {
    hasGlyphForCodePoint(point: number): boolean
  }
  export function openSync(path: string): Font
  export function create(bytes: Uint8Array): Font
}
