import { useEffect, useState } from 'react'
import { ask, type Request, wordsOf } from '../../api/client'
import type { AnswerGiven, NamesOf } from '../../api/contracts'

/** What an endpoint answers; asked again when the request changes. */
export function useAnswer<N extends NamesOf<'json'>>(
  name: N,
  request: Request<N>,
): { answer: AnswerGiven<N> | null; failed: string } {
  const [answer, setAnswer] = useState<AnswerGiven<N> | null>(null)
  const [failed, setFailed] = useState('')
  const key = JSON.stringify(request)
  useEffect(() => {
    const stop = new AbortController()
    setFailed('')
    ask(name, { ...JSON.parse(key), signal: stop.signal }).then(
      setAnswer,
      (thrown) => stop.signal.aborted || setFailed(wordsOf(thrown)),
    )
    return () => stop.abort()
  }, [name, key])
  return { answer, failed }
}
