/** A file or folder as a backup's manifest lists it. */
export interface ListedFile {
  domain: string
  path: string
  flags: 1 | 2
  size: number
  modifiedAt: Date
  /** The wrapped key of an encrypted content. */
  key?: Uint8Array | undefined
}
