import { useEffect, useState } from 'react'
import { fetchJson } from '../../components/api'

const EVERY_MS = 3000

/** How many reads are running, over all jobs. */
export function Activity() {
  const [reads, setReads] = useState(0)
  useEffect(() => {
    const ask = () => {
      fetchJson<{ reads: number }>('/api/activity').then(
        (activity) => setReads(activity.reads),
        () => {},
      )
    }
    ask()
    const timer = setInterval(ask, EVERY_MS)
    return () => clearInterval(timer)
  }, [])
  return (
    <span className="text-soft" role="status">
      {reads > 0 ? `${reads} ${reads === 1 ? 'read' : 'reads'} running` : ''}
    </span>
  )
}
