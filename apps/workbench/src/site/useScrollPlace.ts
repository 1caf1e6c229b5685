import { type RefObject, useEffect } from 'react'

const places = new Map<string, number>()

/** Opens a page where it was left, for whoever goes back to it. `ready`: what is scrolled has its height. */
export function useScrollPlace(box: RefObject<HTMLElement | null>, ready: boolean): void {
  useEffect(() => {
    const element = box.current
    if (!element || !ready) return
    const address = window.location.hash
    element.scrollTop = places.get(address) ?? 0
    const keep = () => places.set(address, element.scrollTop)
    element.addEventListener('scroll', keep, { passive: true })
    return () => element.removeEventListener('scroll', keep)
  }, [box, ready])
}
