import { modelName } from '@lumbrin/core/backup/models'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { formatBytes, formatTime, plural } from '../../domain/format'
import { type Loss, stance } from '../../domain/loss'
import { BringFolder } from './BringFolder'
import { CloudPanel } from './CloudPanel'
import { type Found, useBackupSearch } from './useBackupSearch'

interface Props {
  jobId: number
  loss: Loss
  /** Folders that are sources of this job already. */
  known: string[]
}

/** Backups found on this computer, and a field for any other folder. */
export function AddSource({ jobId, loss, known }: Props) {
  const searched = useBackupSearch()
  const [folder, setFolder] = useState('')
  const { act, failed } = useAct()
  const add = (path: string) =>
    act(() => ask('POST /api/jobs/{job}/sources', { path: { job: jobId }, body: { folder: path } }))
  const wrong = failed || searched.failed
  return (
    <div className="space-y-4">
      <h2>Add a source</h2>
      <Failure>{wrong}</Failure>
      <form
        onSubmit={(event) => {
          event.preventDefault()
          add(folder)
        }}
        className="space-y-2"
      >
        <label className="block">
          <span className="mb-1 block">Folder of a backup, a raw image, or a disk to search</span>
          <input
            className="field font-mono text-sm"
            value={folder}
            onChange={(event) => setFolder(event.target.value)}
            required
          />
        </label>
        <p className="flex gap-2">
          <button type="submit" className="button">
            Add this
          </button>
          <button type="button" className="button" disabled={!folder} onClick={() => void searched.search(folder)}>
            Search below it
          </button>
        </p>
      </form>
      <p className="text-soft">
        A device on the cable is added in the{' '}
        <a className="text-accent underline underline-offset-2" href="/bay">
          Bay
        </a>
        , where its state is seen.
      </p>
      <CloudPanel jobId={jobId} loss={loss} />
      <BringFolder jobId={jobId} />
      <h2>Found on this computer</h2>
      <SearchState {...searched} />
      <ul className="divide-y divide-rule">
        {searched.found
          .filter((backup) => !known.includes(backup.path))
          .map((backup) => (
            <FoundItem key={backup.path} backup={backup} loss={loss} add={add} />
          ))}
      </ul>
    </div>
  )
}

/** How far the search is, and the way to stop it. */
function SearchState({ found, at, state, stop }: ReturnType<typeof useBackupSearch>) {
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

function FoundItem({ backup, loss, add }: { backup: Found; loss: Loss; add: (path: string) => void }) {
  return (
    <li className="py-3">
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
        {!backup.complete && ' · interrupted'}
        <br />
        state of {formatTime(backup.takenAt)}
        {stance(backup.takenAt, loss)} · {plural(backup.files, 'file')}, {formatBytes(backup.bytes)}
      </p>
    </li>
  )
}
