import { useSyncExternalStore } from 'react'

const never = () => () => {}

/**
 * False on the server and while an island takes over the page that came from it, which must look the same as there: what
 * other islands have been told meanwhile is shown after that.
 */
export const useHydrated = (): boolean =>
  useSyncExternalStore(
    never,
    () => true,
    () => false,
  )
