import { useState } from 'react'
import { ask } from '../../api/client'
import { Dialog } from '../../components/Dialog'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import { sourceName } from '../../domain/labels'
import type { Source } from '../../domain/source'
import type { Wire } from '../../domain/wire'

const NEW = 'new'

/** Keeps the state that a source shows as a safe copy, in a place that is known or a new one. */
export function KeepCopy({ source, close }: { source: Wire<Source>; close: () => void }) {
  const { answer, failed: notKnown } = useAsk('GET /api/copies', {})
  const { act, failed, busy } = useAct()
  const [chosen, choose] = useState<string | null>(null)
  const [folder, setFolder] = useState('')
  const [begun, setBegun] = useState(false)
  const there = answer?.places.filter(({ away }) => away === null) ?? []
  const place = chosen ?? String(there[0]?.id ?? NEW)
  const begin = () =>
    act(async () => {
      const id = place === NEW ? (await ask('POST /api/copies/places', { body: { folder } })).id : Number(place)
      await ask('POST /api/copies/places/{place}/tasks', {
        path: { place: id },
        body: { kind: 'copy', source: source.id },
      })
      setBegun(true)
    })
  return (
    <Dialog label="Keep a safe copy" close={close} className="!w-[34rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          begin()
        }}
      >
        <h2 className="text-lg">Keep “{sourceName(source.info)}” as a safe copy</h2>
        {begun ? (
          <p role="status">
            The copy is being made. <a href="/copies">How far it is, and all copies</a>
          </p>
        ) : (
          answer && (
            <>
              <label className="block">
                <span className="mb-1 block font-semibold">Where it is kept</span>
                <select className="field" value={place} onChange={(event) => choose(event.target.value)}>
                  {there.map(({ id, path }) => (
                    <option key={id} value={id}>
                      {path}
                    </option>
                  ))}
                  <option value={NEW}>A new place…</option>
                </select>
              </label>
              {place === NEW && (
                <label className="block">
                  <span className="mb-1 block font-semibold">Folder of the new place</span>
                  <input className="field" value={folder} onChange={(event) => setFolder(event.target.value)} />
                  <span className="text-sm text-soft">An empty or new folder, on a disk of your choice.</span>
                </label>
              )}
              <p className="text-soft">
                Only what no copy there has yet takes room.
                {source.info.encrypted &&
                  ' Its contents lie open in a copy: keep the place on a disk that is itself encrypted.'}
              </p>
            </>
          )
        )}
        <Failure>{failed || notKnown}</Failure>
        <p className="flex gap-3">
          {!begun && (
            <button
              type="submit"
              className="button button-main"
              disabled={busy || !answer || (place === NEW && folder.trim() === '')}
            >
              Make the copy
            </button>
          )}
          <button type="button" className="button" onClick={close}>
            {begun ? 'Close' : 'Cancel'}
          </button>
        </p>
      </form>
    </Dialog>
  )
}
