import { useEffect, useState } from 'react'
import { fetchJson, wordsOf } from '../../components/api'

/** What an address answers; fetched again when it changes. */
export function useAnswer<T>(address: string | null): { answer: T | null; failed: string } {
  const [answer, setAnswer] = useState<T | null>(null)
  const [failed, setFailed] = useState('')
  useEffect(() => {
    if (address === null) return setAnswer(null)
    const stop = new AbortController()
    setFailed('')
    fetchJson<T>(address, stop.signal).then(setAnswer, (thrown) => stop.signal.aborted || setFailed(wordsOf(thrown)))
    return () => stop.abort()
  }, [address])
  return { answer, failed }
}
