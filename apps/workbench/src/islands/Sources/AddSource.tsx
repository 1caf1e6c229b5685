import { modelName } from '@lumbrin/core/backup/models'
import { dayIn } from '@lumbrin/core/io/time-zone'
import { formatISO, parseISO, subYears } from 'date-fns'
import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Moment, useTimes } from '../../components/times'
import { useAct } from '../../components/useAct'
import { formatBytes, plural } from '../../domain/format'
import { type Loss, stance } from '../../domain/loss'
import { BringFolder } from './BringFolder'
import { CloudPanel } from './CloudPanel'
import { type Found, useBackupSearch } from './useBackupSearch'

interface Props {
  jobId: number
  loss: Loss
  /** The unique id of the device that the brief is about; null: no source says it. */
  device: string | null
  /** Folders that are sources of this job already. */
  known: string[]
}

/** What is on this computer already, the one that fits the loss marked; then all other ways to a source. */
export function AddSource({ jobId, loss, known, device }: Props) {
  const { zone } = useTimes()
  const searched = useBackupSearch()
  const { act, failed, busy } = useAct()
  const found = searched.found.filter((backup) => !known.includes(backup.path))
  const fits = fitting(found, loss, device, zone)
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
            loss={loss}
            fits={backup === fits}
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
      <CloudPanel jobId={jobId} loss={loss} />
      <BringFolder jobId={jobId} />
    </div>
  )
}

/** Of several backups the one that may hold what was lost whole: the newest from before the loss. */
function fitting(found: readonly Found[], { from, to }: Loss, device: string | null, zone: string): Found | undefined {
  const day = from ?? to
  if (!day) return undefined
  // One of long ago is of another time of the device, or of another device.
  const since = formatISO(subYears(parseISO(day), 1), { representation: 'date' })
  const dayOf = (takenAt: string) => dayIn(new Date(takenAt), zone)
  const before = found.filter(
    ({ takenAt, uniqueId }) =>
      takenAt !== null && dayOf(takenAt) <= day && dayOf(takenAt) >= since && (device === null || uniqueId === device),
  )
  return before.sort((a, b) => (b.takenAt ?? '').localeCompare(a.takenAt ?? ''))[0]
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
