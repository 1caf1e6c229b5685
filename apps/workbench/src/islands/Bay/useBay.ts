import { useCallback, useEffect, useState } from 'react'
import { fetchJson, wordsOf } from '../../components/api'
import type { Wire } from '../../components/wire'
import type { Bay } from '../../services/bay'

const ASK_MS = 2000

/** The bay as it is, looked at every two seconds while the page is open. */
export function useBay() {
  const [bay, setBay] = useState<Wire<Bay> | null>(null)
  const [failed, setFailed] = useState('')
  const look = useCallback(
    () =>
      fetchJson<Wire<Bay>>('/api/bay').then(
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
