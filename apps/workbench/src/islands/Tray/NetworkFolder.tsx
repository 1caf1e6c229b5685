import { useState } from 'react'
import { ask } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'
import type { NetworkFolderAccess } from '../../domain/job'

/** Opens tray and findings for the system's own file manager, read-only and under a one-time password. */
export function NetworkFolder({ jobId }: { jobId: number }) {
  const [share, setShare] = useState<NetworkFolderAccess>()
  const { act, failed } = useAct()
  const path = { job: jobId }
  const open = () => act(async () => setShare(await ask('POST /api/jobs/{job}/share', { path })))
  const close = () =>
    act(async () => {
      await ask('DELETE /api/jobs/{job}/share', { path })
      setShare(undefined)
    })
  return (
    <section className="mt-8 max-w-5xl border-t border-rule pt-4" aria-label="Network folder">
      <h2>Browse as a folder</h2>
      <p className="mt-1 max-w-prose text-soft">
        Opens the tray and the findings as a read-only network folder (WebDAV) on this computer, so that its file
        manager and any program can open and copy files without an export.
      </p>
      <Failure className="mt-2">{failed}</Failure>
      {share ? (
        <>
          <dl className="mt-3 grid w-fit grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            <dt className="text-soft">Address</dt>
            <dd className="font-mono text-sm select-all">{`${location.origin}${share.path}`}</dd>
            <dt className="text-soft">Name</dt>
            <dd className="font-mono text-sm select-all">{share.user}</dd>
            <dt className="text-soft">Password</dt>
            <dd className="font-mono text-sm select-all">{share.password}</dd>
          </dl>
          <p className="mt-2 text-soft">
            The password is shown this once and ends in 12 hours, when the server stops, or when you close the folder.
          </p>
          <button type="button" className="button mt-3" onClick={close}>
            Close the folder
          </button>
        </>
      ) : (
        <button type="button" className="button mt-3" onClick={open}>
          Open the folder
        </button>
      )}
    </section>
  )
}
