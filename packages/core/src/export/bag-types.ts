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

/** Lists the files that lie beside the payload. */
export const TAG_MANIFEST = 'tagmanifest-sha256.txt'

/** The folder of a bag in which its payload lies. */
export const PAYLOAD = 'data'
