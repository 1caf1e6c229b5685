import { useState } from 'react'
import { ask } from '../../api/client'
import { Dialog } from '../../components/Dialog'
import { DialogButtons } from '../../components/DialogButtons'
import { Failure } from '../../components/Failure.js'
import { useAct } from '../../components/useAct'

export interface JobChoice {
  id: number
  number: string
  owner: string
}

/** Adds a copy to a job as a source, and goes there. */
export function OpenInJob({ folder, jobs, close }: { folder: string; jobs: JobChoice[]; close: () => void }) {
  const { act, failed, busy } = useAct()
  const [job, setJob] = useState(jobs[0]?.id)
  return (
    <Dialog label="Open in a job" close={close} className="!w-[30rem]">
      <form
        className="space-y-4"
        onSubmit={(event) => {
          event.preventDefault()
          if (job === undefined) return
          act(async () => {
            await ask('POST /api/jobs/{job}/sources', { path: { job }, body: { folder } })
            window.location.assign(`/jobs/${job}/sources`)
          })
        }}
      >
        <h2 className="text-lg">Open this copy in a job</h2>
        {jobs.length === 0 ? (
          <p>There is no job yet. Open one first; this copy can then be added to it.</p>
        ) : (
          <label className="block">
            <span className="mb-1 block font-semibold">Job</span>
            <select className="field" value={job} onChange={(event) => setJob(Number(event.target.value))}>
              {jobs.map(({ id, number, owner }) => (
                <option key={id} value={id}>
                  {number} · {owner}
                </option>
              ))}
            </select>
          </label>
        )}
        <p className="text-soft">
          There it is a source like any other: it is read, and its items stand among the findings.
        </p>
        <Failure>{failed}</Failure>
        <DialogButtons action="Add it as a source" disabled={busy || job === undefined} close={close} />
      </form>
    </Dialog>
  )
}
