import { useEffect, useRef } from 'react'
import { type FindingsQuery, fromAddress, toAddress } from '../../domain/findings-query'

/** What makes another place of a view: back leads to how it was before. All else is a change of the place where one is. */
const PLACE = ['category', 'standings', 'conversation', 'layout', 'matching', 'compared'] as const

const placeOf = (query: FindingsQuery) => PLACE.map((name) => String(query[name])).join()

/** Keeps the address of the page as the view is; `went` is told where back and forward lead. */
export function useHistory(query: FindingsQuery, went: (there: FindingsQuery) => void): void {
  const latest = useRef(went)
  const { zone } = query
  latest.current = went
  const before = useRef(query)
  useEffect(() => {
    const address = toAddress(query)
    const moved = placeOf(query) !== placeOf(before.current)
    before.current = query
    if (moved && address !== location.search) history.pushState(null, '', address)
    else history.replaceState(null, '', address)
  }, [query])
  useEffect(() => {
    const go = () => {
      const there = fromAddress(location.search, zone)
      before.current = there
      latest.current(there)
    }
    addEventListener('popstate', go)
    return () => removeEventListener('popstate', go)
  }, [zone])
}
