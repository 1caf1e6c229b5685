import { useQueryClient } from '@tanstack/react-query'
import { useRef, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { formatBytes } from '../../domain/format'

interface Progress {
  done: number
  total: number
}

/** Brings a backup in from the computer that the browser runs on, file by file; again, it goes on where it was. */
export function BringFolder({ jobId }: { jobId: number }) {
  const client = useQueryClient()
  const [progress, setProgress] = useState<Progress | null>(null)
  const [failed, setFailed] = useState('')
  const stopped = useRef(false)
  const bring = async (files: File[]) => {
    const [first] = files
    if (!first) return
    stopped.current = false
    setFailed('')
    const name = first.webkitRelativePath.split('/', 1)[0] as string
    const place = { job: jobId, name }
    try {
      const here = await ask('GET /api/jobs/{job}/brought/{name}', { path: place })
      const total = files.reduce((sum, file) => sum + file.size, 0)
      let done = 0
      for (const file of files) {
        const path = file.webkitRelativePath.slice(name.length + 1)
        if (stopped.current) throw new Error('Stopped. What is here stays; choose the folder again to go on.')
        if (here[path] !== file.size)
          await ask('PUT /api/jobs/{job}/brought/{name}', { path: place, query: { path }, body: file })
        done += file.size
        setProgress({ done, total })
      }
      await ask('POST /api/jobs/{job}/brought/{name}', { path: place })
      setProgress(null)
      await client.invalidateQueries()
    } catch (thrown) {
      setFailed(wordsOf(thrown))
      setProgress(null)
    }
  }
  return (
    <div className="space-y-2">
      <label className="block">
        <span className="mb-1 block">Upload a backup folder from the computer of this browser</span>
        <input
          type="file"
          className="w-full text-sm"
          multiple
          disabled={progress !== null}
          onChange={(event) => void bring([...(event.target.files ?? [])])}
          webkitdirectory=""
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
