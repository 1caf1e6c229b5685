import { useRef, useState } from 'react'
import { fetchJson, sendJson, wordsOf } from '../../components/api'
import { Failure } from '../../components/Failure.js'
import { formatBytes } from '../../components/format'

interface Progress {
  done: number
  total: number
}

/** Brings a backup in from the computer that the browser runs on, file by file; again, it goes on where it was. */
export function BringFolder({ jobId }: { jobId: number }) {
  const [progress, setProgress] = useState<Progress | null>(null)
  const [failed, setFailed] = useState('')
  const stopped = useRef(false)
  const bring = async (files: File[]) => {
    const [first] = files
    if (!first) return
    stopped.current = false
    setFailed('')
    const name = first.webkitRelativePath.split('/', 1)[0] as string
    const address = `/api/jobs/${jobId}/brought/${encodeURIComponent(name)}`
    try {
      const here = await fetchJson<Record<string, number>>(address)
      const total = files.reduce((sum, file) => sum + file.size, 0)
      let done = 0
      for (const file of files) {
        const path = file.webkitRelativePath.slice(name.length + 1)
        if (stopped.current) throw new Error('Stopped. What is here stays; choose the folder again to go on.')
        if (here[path] !== file.size) await send(`${address}?path=${encodeURIComponent(path)}`, file)
        done += file.size
        setProgress({ done, total })
      }
      await sendJson('POST', address, {})
      location.reload()
    } catch (thrown) {
      setFailed(wordsOf(thrown))
      setProgress(null)
    }
  }
  return (
    <div className="space-y-2">
      <label className="block">
        <span className="mb-1 block">Or bring a folder from the computer you sit at</span>
        <input
          type="file"
          className="w-full text-sm"
          multiple
          disabled={progress !== null}
          onChange={(event) => void bring([...(event.target.files ?? [])])}
          ref={(field) => field?.setAttribute('webkitdirectory', '')}
        />
      </label>
      {progress && (
        <div>
          <progress
            className="w-full"
            max={Math.max(1, progress.total)}
            value={progress.done}
            aria-label="Brought in"
          />
          <p className="flex items-center justify-between text-sm text-soft">
            {formatBytes(progress.done)} of {formatBytes(progress.total)}
            <button
              type="button"
              className="button"
              onClick={() => {
                stopped.current = true
              }}
            >
              Stop
            </button>
          </p>
        </div>
      )}
      <Failure>{failed}</Failure>
    </div>
  )
}

async function send(address: string, file: File): Promise<void> {
  const response = await fetch(address, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream' },
    body: file,
  })
  if (!response.ok) {
    const answer = await response.json().catch(() => null)
    throw new Error(
      answer?.error?.message ?? `The server answered with ${response.status}. Choose the folder again to go on.`,
    )
  }
}
