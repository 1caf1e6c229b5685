import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'

const EVERY_MS = 3000

/** How many reads are running, over all jobs. */
export const Activity = () => (
  <Island>
    <Running />
  </Island>
)

function Running() {
  const { reads = 0 } = useAsk('GET /api/activity', {}, { every: EVERY_MS }).answer ?? {}
  return (
    <span className="text-soft" role="status">
      {reads > 0 ? `${reads} ${reads === 1 ? 'read' : 'reads'} running` : ''}
    </span>
  )
}
