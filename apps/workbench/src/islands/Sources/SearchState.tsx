import { plural } from '../../domain/format'
import type { useBackupSearch } from './useBackupSearch'

/** How far the search is, and the way to stop it. */
export function SearchState({ found, at, state, stop }: Omit<ReturnType<typeof useBackupSearch>, 'search'>) {
  if (state === 'running')
    return (
      <div className="space-y-1" role="status">
        <p className="flex items-center justify-between text-sm text-soft">
          Looking: {plural(at?.seen ?? 0, 'folder')} so far
          <button type="button" className="button" onClick={stop}>
            Stop
          </button>
        </p>
        <p className="truncate font-mono text-xs text-soft" title={at?.folder}>
          {at?.folder}
        </p>
      </div>
    )
  if (state === 'stopped') return <p className="text-soft">The search was stopped. What it found is kept below.</p>
  if (found.length === 0)
    return <p className="text-soft">No backup was found. More folders to search can be set in Settings.</p>
  return null
}
