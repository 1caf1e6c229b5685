/** How many sources may be read at once, each of which takes a processor and some hundred megabytes of memory. */
export const MOST_READS_AT_ONCE = 8
/** How many are, where nobody set it, on a computer with as many processors. */
export const MOST_BY_ITSELF = 4
