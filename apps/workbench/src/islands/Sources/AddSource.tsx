import type { FoundBackup } from '@lumbrin/core/backup/discover'
import { modelName } from '@lumbrin/core/backup/models'
import { useEffect, useState } from 'react'
import { fetchJson, sendJson, wordsOf } from '../../components/api'
import { formatBytes, formatTime } from '../../components/format'
import type { Wire } from '../../components/wire'
import { BringFolder } from './BringFolder'

type Found = Wire<FoundBackup>

/** Backups found on this computer, and a field for any other folder. */
export function AddSource({ jobId, known }: { jobId: number; known: string[] }) {
  const [found, setFound] = useState<Found[] | null>(null)
  const [folder, setFolder] = useState('')
  const [failed, setFailed] = useState('')
  useEffect(() => {
    fetchJson<Found[]>('/api/backups').then(setFound, (thrown) => setFailed(wordsOf(thrown)))
  }, [])
  const add = async (path: string) => {
    try {
      await sendJson('POST', `/api/jobs/${jobId}/sources`, { folder: path })
      location.reload()
    } catch (thrown) {
      setFailed(wordsOf(thrown))
    }
  }
  const fresh = found?.filter((backup) => !known.includes(backup.path))
  return (
    <div className="space-y-4">
      <h2>Add a source</h2>
      {failed && (
        <p className="notice notice-bad" role="alert">
          {failed}
        </p>
      )}
      <form
        onSubmit={(event) => {
          event.preventDefault()
          void add(folder)
        }}
        className="space-y-2"
      >
        <label className="block">
          <span className="mb-1 block">Folder of a backup</span>
          <input
            className="field font-mono text-sm"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
            required
          />
        </label>
        <button type="submit" className="button">
          Add this folder
        </button>
      </form>
      <BringFolder jobId={jobId} />
      <h2>Found on this computer</h2>
      {!found && !failed && <p className="text-soft">Looking in the usual folders…</p>}
      {fresh?.length === 0 && (
        <p className="text-soft">No other backup was found. More folders to search can be set in Settings.</p>
      )}
      <ul className="divide-y divide-rule">
        {fresh?.map((backup) => (
          <li key={backup.path} className="py-3">
            <div className="flex items-baseline justify-between gap-3">
              <span className="font-semibold">{backup.deviceName ?? 'Unnamed device'}</span>
              <button
                type="button"
                className="button"
                onClick={() => add(backup.path)}
                aria-label={`Add ${backup.deviceName ?? backup.path}, state of ${formatTime(backup.takenAt)}`}
              >
                Add
              </button>
            </div>
            <p className="text-sm text-soft">
              {modelName(backup.productType) ?? 'unknown model'} · {backup.osVersion} ·{' '}
              {backup.encrypted ? 'encrypted' : 'not encrypted'}
              <br />
              state of {formatTime(backup.takenAt)} · {formatBytes(backup.bytes)}
            </p>
          </li>
        ))}
      </ul>
    </div>
  )
}
