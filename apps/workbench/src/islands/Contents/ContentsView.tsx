import { useCallback, useState } from 'react'
import { Island } from '../../components/Island'
import { Moment, type Zoned } from '../../components/times'
import type { Read, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ReadAccount } from '../Sources/ReadAccount'
import { Unlock } from '../Sources/Unlock'
import { FileBrowser } from './FileBrowser'
import { Integrity } from './Integrity'
import { Overview } from './Overview'

const PARTS = { overview: 'Overview', files: 'Files', integrity: 'Integrity' } as const
type Part = keyof typeof PARTS

interface Props extends Zoned {
  source: Wire<Source>
  reads: Wire<Read>[]
}

/** What a source holds, before or after it is read: by kind, file by file, and whether it is whole. */
export function ContentsView({ zone, source, reads }: Props) {
  const [part, setPart] = useState<Part>('overview')
  const [locked, setLocked] = useState(source.info.encrypted)
  const opened = useCallback(() => setLocked(false), [])
  return (
    <Island zone={zone}>
      <div className="flex min-h-0 flex-1 flex-col">
        <div className="flex items-center gap-4 border-b border-rule px-5 py-2">
          <h2>{source.info.deviceName ?? 'Unnamed device'}</h2>
          <span className="text-soft">
            state of <Moment at={source.takenAt} />
          </span>
          <div className="ml-auto flex gap-2">
            {(Object.keys(PARTS) as Part[]).map((id) => (
              <button key={id} type="button" className="chip" aria-pressed={id === part} onClick={() => setPart(id)}>
                {PARTS[id]}
              </button>
            ))}
          </div>
        </div>
        {locked ? (
          <div className="max-w-2xl p-5">
            <Unlock sourceId={source.id} wasOpen={false} opened={opened} />
          </div>
        ) : (
          <>
            {part === 'overview' && <Overview sourceId={source.id} />}
            {part === 'files' && <FileBrowser sourceId={source.id} />}
            {part === 'integrity' && (
              <>
                <div className="px-5 pt-4">
                  <ReadAccount source={source} reads={reads} />
                </div>
                <Integrity sourceId={source.id} />
              </>
            )}
          </>
        )}
      </div>
    </Island>
  )
}
