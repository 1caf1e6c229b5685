import { modelName } from '@lumbrin/core/backup/models'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment, useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, plural } from '../../domain/format'
import { type Loss, stance } from '../../domain/loss'
import type { JobSources } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { BringFolder } from './BringFolder'
import { CloudPanel } from './CloudPanel'
import { SearchState } from './SearchState'
import { type Found, useBackupSearch } from './useBackupSearch'
import { type Sought, useFits } from './useFits'

interface Props {
  jobId: number
  sought: Sought
  here: Wire<JobSources>
}

/** What is on this computer already, the one that fits the loss marked; then all other ways to a source. */
export function AddSource({ jobId, sought, here }: Props) {
  const searched = useBackupSearch()
  const { act, failed, busy } = useAct()
  const fits = useFits(searched.found, sought, here)
  const found = searched.found.filter(({ path }) => fits.get(path) !== 'added')
  const add = (paths: string[]) =>
    act(async () => {
      for (const folder of paths) await ask('POST /api/jobs/{job}/sources', { path: { job: jobId }, body: { folder } })
    })
  return (
    <div className="space-y-4">
      <div className="flex items-baseline justify-between gap-3">
        <h2>On this computer</h2>
        {found.length > 1 && (
          <button type="button" className="button" disabled={busy} onClick={() => add(found.map(({ path }) => path))}>
            Add all {found.length}
          </button>
        )}
      </div>
      {searched.found.length > 1 && (
        <p>
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/backups`}>
            Look at all of them in a table
          </a>
        </p>
      )}
      <Failure>{failed || searched.failed}</Failure>
      <SearchState {...searched} />
      {found.length === 0 && searched.found.length > 0 && (
        <p className="text-soft">All that was found is in this job.</p>
      )}
      <ul className="divide-y divide-rule">
        {found.map((backup) => (
          <FoundItem
            key={backup.path}
            backup={backup}
            loss={sought.loss}
            fits={fits.get(backup.path) === 'best'}
            add={() => add([backup.path])}
          />
        ))}
      </ul>
      <Elsewhere add={(path) => add([path])} search={(folder) => void searched.search(folder)} />
      <p className="text-soft">
        A device on the cable is added in the{' '}
        <a className="text-accent underline underline-offset-2" href="/bay">
          Bay
        </a>
        , where its state is seen.
      </p>
      <CloudPanel jobId={jobId} loss={sought.loss} />
      <BringFolder jobId={jobId} />
    </div>
  )
}

interface ElsewhereProps {
  add: (path: string) => void
  search: (folder: string) => void
}

/** Any other folder, file or disk. */
function Elsewhere({ add, search }: ElsewhereProps) {
  const [folder, setFolder] = useState('')
  return (
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
        <button type="button" className="button" disabled={!folder} onClick={() => search(folder)}>
          Search below it
        </button>
      </p>
    </form>
  )
}

interface FoundProps {
  backup: Found
  loss: Loss
  /** It is the one that may hold what was lost whole. */
  fits: boolean
  add: () => void
}

function FoundItem({ backup, loss, fits, add }: FoundProps) {
  const { time, zone } = useTimes()
  return (
    <li className="py-3">
      <div className="flex items-baseline justify-between gap-3">
        <span className="font-semibold">{backup.deviceName ?? 'Unnamed device'}</span>
        {fits && <span className="text-sm text-accent">fits: the newest from before the loss</span>}
        <button
          type="button"
          className="button"
          onClick={add}
          aria-label={`Add ${backup.deviceName ?? backup.path}, state of ${time(backup.takenAt)}`}
        >
          Add
        </button>
      </div>
      <p className="text-sm text-soft">
        {modelName(backup.productType) ?? 'unknown model'} · {backup.osVersion} ·{' '}
        {backup.encrypted ? 'encrypted' : 'not encrypted'}
        {!backup.complete && ' · interrupted'}
        <br />
        state of <Moment at={backup.takenAt} />
        {stance(backup.takenAt, loss, zone)} · {plural(backup.files, 'file')}, {formatBytes(backup.bytes)}
      </p>
    </li>
  )
}
