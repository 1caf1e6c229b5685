import type { SourceEntry, SourceTree } from '../backup/types.js'
import type { StorePlace } from './types.js'

/** True where `*` in the pattern stands for what the text has there. */
export function matchesPattern(pattern: string, text: string): boolean {
  if (!pattern.includes('*')) return pattern === text
  const source = pattern.split('*').map((part) => part.replace(/[.+?^${}()|[\]\\]/g, '\\$&'))
  return new RegExp(`^${source.join('[^/]*')}$`).test(text)
}

const SIBLINGS = ['', '-wal', '-shm', '-journal']

/** True for the databases at these places, and for the logs that belong to them. */
export const isStore = (places: readonly StorePlace[], { domain, path }: SourceEntry): boolean =>
  places.some(
    (place) =>
      matchesPattern(place.domain, domain) && SIBLINGS.some((end) => matchesPattern(`${place.path}${end}`, path)),
  )

/**
 * The databases to read: all that match the first of the places of which the source has any, since later places are of
 * other generations. Where it has none, one of the same file name in another domain: they moved between versions.
 */
export function storesOf(tree: SourceTree, places: readonly StorePlace[]): SourceEntry[] {
  for (const place of places) {
    const found = matchesOf(tree, place)
    if (found.length > 0) return found
  }
  const names = new Set(places.filter(isExact).map(({ path }) => path.slice(path.lastIndexOf('/') + 1)))
  for (const entry of tree.entries())
    if (entry.kind === 'file' && names.has(entry.path.slice(entry.path.lastIndexOf('/') + 1))) return [entry]
  return []
}

const isExact = ({ domain, path }: StorePlace) => !`${domain}${path}`.includes('*')

/** The files at a place, which may hold patterns. */
export function matchesOf(tree: SourceTree, place: StorePlace): SourceEntry[] {
  if (isExact(place)) {
    const entry = tree.find(place.domain, place.path)
    return entry?.kind === 'file' ? [entry] : []
  }
  return [...tree.entries()].filter(
    (entry) =>
      entry.kind === 'file' && matchesPattern(place.domain, entry.domain) && matchesPattern(place.path, entry.path),
  )
}
