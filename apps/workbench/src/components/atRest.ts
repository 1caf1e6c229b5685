import { type ComponentType, lazy } from 'react'

/**
 * A component that the page is drawn without: its script comes once the page is there and has nothing else to do, or when
 * it is wanted, whichever is first. It must not be drawn on the server: a page that waits for it would need scripts that
 * the content policy refuses.
 */
export function atRest<Props>(load: () => Promise<ComponentType<Props>>) {
  if (typeof window !== 'undefined') whenAtRest(() => void load().catch(() => undefined))
  return lazy(async () => ({ default: await load() }))
}

// After the page's own scripts and the answers that it waits for.
const FIRST_MS = 1500

function whenAtRest(act: () => void): void {
  // Not every browser tells when it is idle.
  setTimeout(() => ('requestIdleCallback' in window ? requestIdleCallback(act) : act()), FIRST_MS)
}
