/** Why a package cannot be written to a place. */
export class DestinationError extends Error {
  override readonly name = 'DestinationError'
}

/** A file of the package, as its manifest lists it. */
export interface BagFile {
  /** Relative to the package, with "/" as separator. */
  path: string
  bytes: number
  sha256: string
}

/** What a bag's manifest lists. */
export interface Listed {
  /** Of the manifest. */
  name: string
  /** Its SHA-256. */
  manifest: string
  files: number
  bytes: number
}

/**
 * Of each part of a package, in their order, the path of its first file of content; null: it has none. Such files lie in
 * the parts in the order of their paths.
 */
export type PartStarts = readonly (string | null)[]

/** A file that lies beside the payload. */
export type Tag = readonly [name: string, content: string | Uint8Array]

/** Lists the files that lie beside the payload. */
export const TAG_MANIFEST = 'tagmanifest-sha256.txt'

/** The folder of a bag in which its payload lies. */
export const PAYLOAD = 'data'
