import { existsSync, readFileSync } from 'node:fs'

/** Placeholders in the EXIF of the ready-made HEIC files; the picture's own time and zone take their place. */
export const NO_TIME = '2000:01:01 00:00:00'
export const NO_ZONE = '+00:00'

/** Where the scene of a seed is kept as HEIC. The same from `src` and from `dist`, which have the same depth. */
export const heicFile = (seed: number) => new URL(`../../heic/${seed}.heic`, import.meta.url)

/**
 * The scene of a seed as HEIC, for the seeds that have one. Nothing that ships with the product writes HEIC, so that a
 * few were made ahead, by `make-heic.ts`.
 */
export function heicScene(seed: number): Buffer | undefined {
  return existsSync(heicFile(seed)) ? readFileSync(heicFile(seed)) : undefined
}
