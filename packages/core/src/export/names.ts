// Windows keeps these for devices, with any ending, and with blanks before it; a file of that name cannot be made there
// (Microsoft, "Naming Files, Paths, and Namespaces").
const RESERVED = /^(con|prn|aux|nul|conin\$|conout\$|com[\d¹²³]|lpt[\d¹²³])\s*(\.|$)/i
// Room for a folder, a counter and an ending below the 255 bytes of most file systems.
const MAX_BYTES = 150

/**
 * A file or folder name that every common file system takes, made of text from a device: no separators, controls,
 * direction marks or reserved names, no dot or blank at its ends, of bounded length. Never empty.
 */
export function safeName(text: string): string {
  const plain = text
    .toWellFormed()
    .normalize('NFC')
    // biome-ignore lint/suspicious/noControlCharactersInRegex: control characters are what is removed here
    .replace(/[\u0000-\u001f\u007f-\u009f\u200b-\u200f\u2028-\u202e\u2066-\u2069\ufeff]/g, '')
    // "%" too: RFC 8493 has it encoded in a manifest, and sha256sum takes what stands there for the name.
    .replace(/[<>:"/\\|?*%]/g, '_')
  const short = trimEnds(cut(trimEnds(plain), MAX_BYTES))
  const name = short === '' ? 'unnamed' : short
  return RESERVED.test(name) ? `_${name}` : name
}

const trimEnds = (text: string) => text.replace(/^[\s.]+|[\s.]+$/g, '')

// The ending is kept, since it tells programs what the file is.
function cut(name: string, maxBytes: number): string {
  if (Buffer.byteLength(name) <= maxBytes) return name
  const dot = name.lastIndexOf('.')
  const ending = dot > 0 && name.length - dot <= 10 ? name.slice(dot) : ''
  let stem = [...(ending ? name.slice(0, dot) : name)]
  while (Buffer.byteLength(stem.join('') + ending) > maxBytes) stem = stem.slice(0, Math.floor(stem.length * 0.9))
  return stem.join('') + ending
}

/** Gives each file of a package a place of its own, also where file systems take "A" and "a" for the same. */
export class Places {
  readonly #taken: Set<string>

  /** `taken`: places that are in use already. */
  constructor(taken: Iterable<string> = []) {
    this.#taken = new Set([...taken].map((place) => place.toLowerCase()))
  }

  /**
   * A free place for a file of this name in this folder ("." or names with "/" between them, each made safe);
   * "name (2).jpg" where it is taken.
   */
  take(folder: string, name: string): string {
    const safe = safeName(name)
    const inside = folder === '.' ? folder : folder.split('/').map(safeName).join('/')
    const dot = safe.lastIndexOf('.')
    const [stem, ending] = dot > 0 ? [safe.slice(0, dot), safe.slice(dot)] : [safe, '']
    for (let copy = 1; ; copy++) {
      const place = `${inside}/${copy === 1 ? safe : `${stem} (${copy})${ending}`}`
      const key = place.toLowerCase()
      if (this.#taken.has(key)) continue
      this.#taken.add(key)
      return place
    }
  }

  /** Gives a place back that nothing was written to. */
  free(place: string): void {
    this.#taken.delete(place.toLowerCase())
  }
}
