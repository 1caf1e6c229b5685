import { useSyncExternalStore } from 'react'

/** Where somebody is: what stands behind `#/` in the address, so that back and forward work from a folder too. */
export type Route =
  | { view: 'start' | 'people' | 'places' }
  | { view: 'kind'; kind: string }
  | { view: 'item'; number: number }
  | { view: 'conversation'; index: number; at: number | null }
  | { view: 'person'; index: number }
  | { view: 'search'; words: string }

const numberOf = (text: string | undefined): number | null =>
  text !== undefined && /^\d{1,9}$/.test(text) ? Number(text) : null

/** The route of an address; what means nothing leads to the start. */
export function routeOf(hash: string): Route {
  const [view, first, second] = hash.replace(/^#\//, '').split('/').map(decoded)
  const number = numberOf(first)
  if (view === 'people' || view === 'places') return { view }
  if (view === 'search') return { view, words: first ?? '' }
  if (view === 'kind' && first) return { view, kind: first }
  if (view === 'item' && number !== null) return { view, number }
  if (view === 'person' && number !== null) return { view, index: number }
  if (view === 'conversation' && number !== null) return { view, index: number, at: numberOf(second) }
  return { view: 'start' }
}

function decoded(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}

export const addressOf = (...parts: (string | number)[]): string => `#/${parts.map(encodeURIComponent).join('/')}`

const listen = (changed: () => void) => {
  window.addEventListener('hashchange', changed)
  return () => window.removeEventListener('hashchange', changed)
}

/** The address now, as text. */
export const useAddress = (): string => useSyncExternalStore(listen, () => window.location.hash)
