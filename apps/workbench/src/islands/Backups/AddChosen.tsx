import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { plural } from '../../domain/format'
import type { AddedMany } from '../../domain/source'
import type { Found } from '../Sources/useBackupSearch'

interface Props {
  jobId: number
  /** In the order in which they are read. */
  chosen: readonly Found[]
  added: () => void
}

/** Adds the backups that were chosen, and has them read without anybody there. */
export function AddChosen({ jobId, chosen, added }: Props) {
  const [read, setRead] = useState(true)
  const [enough, setEnough] = useState('')
  const [password, setPassword] = useState('')
  const [result, setResult] = useState<AddedMany | null>(null)
  const { act, failed, busy } = useAct()
  const locked = chosen.filter(({ encrypted }) => encrypted).length
  const submit = (event: React.FormEvent) => {
    event.preventDefault()
    act(async () => {
      setResult(
        await ask('POST /api/jobs/{job}/sources/many', {
          path: { job: jobId },
          body: {
            folders: chosen.map(({ path }) => path),
            password: locked > 0 && password !== '' ? password : null,
            read,
            enough: read && enough !== '' ? Number(enough) : null,
          },
        }),
      )
      setPassword('')
      added()
    })
  }
  return (
    <form onSubmit={submit} className="space-y-3">
      <h2>Add and read</h2>
      <p className="text-soft" role="status">
        {chosen.length === 0
          ? 'Tick backups in the table. They are added to the job, and read one after the other.'
          : `${plural(chosen.length, 'backup')} chosen${locked > 0 ? `, ${locked} with a password` : ''}.`}
      </p>
      {locked > 0 && (
        <label className="block">
          <span className="mb-1 block">Password to try on those with one</span>
          <input
            type="password"
            autoComplete="off"
            className="field"
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
          <span className="mt-1 block text-sm text-soft">
            What it does not open waits for its own, in its row on Sources. It is not kept.
          </span>
        </label>
      )}
      <label className="flex items-center gap-2">
        <input type="checkbox" checked={read} onChange={(event) => setRead(event.target.checked)} />
        Read them too, what fits best first
      </label>
      {read && (
        <label className="flex items-center gap-2">
          Stop at
          <input
            type="number"
            min={1}
            className="field !w-20"
            aria-label="Stop when so many matches are there"
            placeholder="all"
            value={enough}
            onChange={(event) => setEnough(event.target.value)}
          />
          matches
        </label>
      )}
      <button type="submit" className="button button-main" disabled={busy || chosen.length === 0}>
        {chosen.length === 0 ? 'Add' : `Add ${plural(chosen.length, 'backup')}`}
      </button>
      <Failure>{failed}</Failure>
      {result && <Result {...result} />}
    </form>
  )
}

function Result({ added, refused }: AddedMany) {
  return (
    <div role="status" className="notice space-y-1">
      <p>{plural(added.length, 'backup was', 'backups were')} added.</p>
      {refused.length > 0 && (
        <>
          <p>{plural(refused.length, 'could not be', 'could not be')}:</p>
          <ul className="space-y-1 text-sm">
            {refused.map(({ folder, why }) => (
              <li key={folder}>
                <span className="font-mono text-xs break-all">{folder}</span>: {why}
              </li>
            ))}
          </ul>
        </>
      )}
    </div>
  )
}
