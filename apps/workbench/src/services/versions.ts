import { digest } from '@lumbrin/core/io/hash'

/** Names what something is now: whoever changes it says which version was seen, so that no other change is lost. */
export const versionOf = (value: object): string =>
  digest('sha256', JSON.stringify(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))).slice(0, 16)
