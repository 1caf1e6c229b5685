/** The repository's root. */
export const ROOT: string
