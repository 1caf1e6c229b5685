import type { SourceInfo } from '../backup/types.js'
import type { CategoryId } from './types.js'

/** From this version of the system on, some categories are only in backups with a password (common practice). */
export const ONLY_ENCRYPTED_SINCE = 13
const ONLY_ENCRYPTED: readonly CategoryId[] = ['calls', 'web-history', 'networks']

/** False: a source of this kind never has the category, so that its absence says nothing. */
export function mayHold(
  { encrypted, osVersion }: Pick<SourceInfo, 'encrypted' | 'osVersion'>,
  category: CategoryId,
): boolean {
  if (encrypted) return true
  if (category === 'credentials') return false
  const major = Number.parseInt(osVersion ?? '', 10)
  return !(ONLY_ENCRYPTED.includes(category) && major >= ONLY_ENCRYPTED_SINCE)
}
