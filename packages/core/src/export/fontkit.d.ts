declare module 'fontkit' {
  /** A font file, parsed as far as it is used. */
  export function openSync(path: string): object
}
