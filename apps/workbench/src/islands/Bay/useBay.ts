import { useCallback, useEffect, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import type { Bay } from '../../domain/bay'
import type { Wire } from '../../domain/wire'

const ASK_MS = 2000

/** The bay as it is, looked at every two seconds while the page is open. */
export function useBay() {
  const [bay, setBay] = useState<Wire<Bay> | null>(null)
  const [failed, setFailed] = useState('')
  const look = useCallback(
    () =>
      ask('GET /api/bay').then(
        (now) => {
          setBay(now)
          setFailed('')
        },
        (thrown) => setFailed(wordsOf(thrown)),
      ),
    [],
  )
  useEffect(() => {
    void look()
    const timer = setInterval(look, ASK_MS)
    return () => clearInterval(timer)
  }, [look])
  return { bay, failed, look }
}
