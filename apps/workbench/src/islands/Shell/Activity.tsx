import { useEffect, useState } from 'react'
import { ask } from '../../api/client'

const EVERY_MS = 3000

/** How many reads are running, over all jobs. */
export function Activity() {
  const [reads, setReads] = useState(0)
  useEffect(() => {
    const look = () => {
      ask('GET /api/activity').then(
        (activity) => setReads(activity.reads),
        () => {},
      )
    }
    look()
    const timer = setInterval(look, EVERY_MS)
    return () => clearInterval(timer)
  }, [])
  return (
    <span className="text-soft" role="status">
      {reads > 0 ? `${reads} ${reads === 1 ? 'read' : 'reads'} running` : ''}
    </span>
  )
}
