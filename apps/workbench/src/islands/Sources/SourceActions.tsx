import { useState } from 'react'
import { ask } from '../../api/client'
import { Dialog } from '../../components/Dialog'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import { formatCount, plural } from '../../domain/format'
import { sourceName } from '../../domain/labels'
import type { Removal, Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { KeepCopy } from './KeepCopy'

/** What is done with a source as a whole: it is called otherwise, kept as a copy, or taken out of the job. */
export function SourceActions({ source }: { source: Wire<Source> }) {
  const [open, setOpen] = useState<'name' | 'removal' | 'copy' | null>(null)
  const close = () => setOpen(null)
  return (
    <p className="flex gap-3">
      <button type="button" className="button" onClick={() => setOpen('name')}>
        Rename
      </button>
      {source.info.kind !== 'image' && (
        <button type="button" className="button" onClick={() => setOpen('copy')}>
          Keep a safe copy
        </button>
      )}
      <button type="button" className="button" onClick={() => setOpen('removal')}>
        Remove from the job
      </button>
      {open === 'name' && <Rename source={source} close={close} />}
      {open === 'copy' && <KeepCopy source={source} close={close} />}
      {open === 'removal' && <Remove source={source} close={close} />}
    </p>
  )
}

interface Props {
  source: Wire<Source>
  close: () => void
}

function Rename({ source, close }: Props) {
  const { act, failed, busy } = useAct()
  const [name, setName] = useState(source.info.deviceName ?? '')
  const save = (to: string) =>
    act(async () => {
      await ask('PUT /api/sources/{source}/name', { path: { source: source.id }, body: { name: to } })
      close()
    })
  return (
    <Dialog label="Rename the source" close={close} className="!w-[28rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          save(name)
        }}
      >
        <label className="block">
          <span className="mb-1 block font-semibold">Name of this source</span>
          <input className="field" maxLength={200} value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <p className="text-soft">
          This name is shown on every page, in reports and in packages. The backup itself is not changed.
        </p>
        <Failure>{failed}</Failure>
        <p className="flex gap-3">
          <button type="submit" className="button button-main" disabled={busy}>
            Rename
          </button>
          {source.saidName !== null && (
            <button type="button" className="button" disabled={busy} onClick={() => save('')}>
              As it calls itself
            </button>
          )}
          <button type="button" className="button" onClick={close}>
            Cancel
          </button>
        </p>
      </form>
    </Dialog>
  )
}

function Remove({ source, close }: Props) {
  const path = { source: source.id }
  const { answer: removal, failed: notCounted } = useAsk('GET /api/sources/{source}/removal', { path })
  const { act, failed, busy } = useAct()
  const remove = () =>
    act(async () => {
      await ask('DELETE /api/sources/{source}', { path })
      close()
    })
  return (
    <Dialog label="Remove the source" close={close} className="!w-[32rem]">
      <div className="space-y-4">
        <h2 className="text-lg">Remove “{sourceName(source.info)}” from this job?</h2>
        {removal ? <What removal={removal} /> : <p className="text-soft">Counting what would be removed with it…</p>}
        <Failure>{failed || notCounted}</Failure>
        <p className="flex gap-3">
          <button type="button" className="button button-main" disabled={busy || !removal} onClick={remove}>
            Remove it
          </button>
          <button type="button" className="button" onClick={close}>
            Keep it
          </button>
        </p>
      </div>
    </Dialog>
  )
}

function What({ removal: { findings, inTray, fetched } }: { removal: Removal }) {
  return (
    <ul className="list-disc space-y-1 pl-5">
      <li>
        {findings === 0
          ? 'No finding is removed: other sources show everything that this one shows.'
          : `${plural(findings, 'finding')} that no other source shows ${findings === 1 ? 'is' : 'are'} removed; ${inTray === 0 ? 'none of them is' : `${formatCount(inTray)} of them ${inTray === 1 ? 'is' : 'are'}`} in the tray.`}
      </li>
      <li>The standing of all other findings is worked out again.</li>
      <li>
        {fetched
          ? 'What was copied to this computer for the job is deleted. It can be fetched again as long as it is there.'
          : 'The backup itself stays where it is, untouched. It can be added again.'}
      </li>
      <li>Packages already handed over, and the log, are kept.</li>
    </ul>
  )
}
