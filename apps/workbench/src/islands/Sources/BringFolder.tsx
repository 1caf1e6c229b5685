import { useQueryClient } from '@tanstack/react-query'
import { type DragEvent, useRef, useState } from 'react'
import { ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { formatBytes } from '../../domain/format'
import { type BroughtFolder, chosenFolder, droppedFolder } from './droppedFolder'

interface Progress {
  done: number
  total: number
}

/** Brings a backup in from the computer that the browser runs on: dropped here, or chosen. */
export function BringFolder({ jobId }: { jobId: number }) {
  const { progress, failed, bring, stop } = useBringing(jobId)
  const [over, setOver] = useState(false)
  const drop = (event: DragEvent) => {
    event.preventDefault()
    setOver(false)
    if (progress === null) void bring(droppedFolder(event.dataTransfer))
  }
  return (
    <section
      aria-label="Upload a backup"
      className={`space-y-2 rounded-md border-2 border-dashed p-3 ${over ? 'border-accent bg-wash' : 'border-rule'}`}
      onDragOver={(event) => {
        event.preventDefault()
        setOver(true)
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <label className="block">
        <span className="mb-1 block">
          <span className="font-semibold">Drop a backup folder here</span>, or upload a backup folder from the computer
          of this browser
        </span>
        <input
          type="file"
          className="w-full text-sm"
          multiple
          disabled={progress !== null}
          onChange={(event) => void bring(chosenFolder([...(event.target.files ?? [])]))}
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
            <button type="button" className="button" onClick={stop}>
              Stop
            </button>
          </p>
        </div>
      )}
      <Failure>{failed}</Failure>
    </section>
  )
}

/** Sends a folder file by file; done again, it goes on where it was. */
function useBringing(jobId: number) {
  const client = useQueryClient()
  const [progress, setProgress] = useState<Progress | null>(null)
  const [failed, setFailed] = useState('')
  const stopped = useRef(false)
  const send = async ({ name, files }: BroughtFolder) => {
    const place = { job: jobId, name }
    const here = await ask('GET /api/jobs/{job}/brought/{name}', { path: place })
    const total = files.reduce((sum, { file }) => sum + file.size, 0)
    let done = 0
    for (const { path, file } of files) {
      if (stopped.current) throw new Error('Stopped. What is here stays; choose the folder again to go on.')
      if (here[path] !== file.size)
        await ask('PUT /api/jobs/{job}/brought/{name}', { path: place, query: { path }, body: file })
      done += file.size
      setProgress({ done, total })
    }
    await ask('POST /api/jobs/{job}/brought/{name}', { path: place })
    await client.invalidateQueries()
  }
  const bring = async (given: BroughtFolder | undefined | Promise<BroughtFolder | undefined>) => {
    stopped.current = false
    setFailed('')
    setProgress({ done: 0, total: 0 })
    try {
      const folder = await given
      if (!folder || folder.files.length === 0)
        throw new Error('That is no folder with files in it. Nothing was added.')
      await send(folder)
    } catch (thrown) {
      setFailed(wordsOf(thrown))
    } finally {
      setProgress(null)
    }
  }
  return {
    progress,
    failed,
    bring,
    stop: () => {
      stopped.current = true
    },
  }
}
