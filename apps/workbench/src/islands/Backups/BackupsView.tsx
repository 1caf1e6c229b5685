import { byFit, USEFUL_FITS } from '@lumbrin/core/findings/backup-fit'
import { useEffect, useMemo, useState } from 'react'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import type { Zoned } from '../../components/times'
import { useJobProgress } from '../../components/useJobProgress'
import { useSources } from '../../components/useSources'
import { formatCount } from '../../domain/format'
import type { JobProgress } from '../../domain/progress'
import type { JobSources } from '../../domain/source'
import type { Wire } from '../../domain/wire'
import { ReadSummary } from '../Sources/ReadSummary'
import { SearchState } from '../Sources/SearchState'
import { useBackupSearch } from '../Sources/useBackupSearch'
import { type Sought, useFits } from '../Sources/useFits'
import { AddChosen } from './AddChosen'
import { BackupTable } from './BackupTable'

interface Props extends Zoned {
  jobId: number
  sought: Sought
  /** What is searched first; an empty text: the usual folders. */
  folder: string
  sources: Wire<JobSources>
  progress: Wire<JobProgress>
}

/** All backups of a disk or a folder at once: how each fits the job, and the way to add and read many. */
export const BackupsView = (props: Props) => (
  <Island zone={props.zone}>
    <Backups {...props} />
  </Island>
)

function Backups({ jobId, sought, folder: first, sources: withPage, progress: before }: Props) {
  const here = useSources(jobId, withPage)
  const { reads } = useJobProgress(jobId, before)
  const [folder, setFolder] = useState(first)
  const { search, ...searched } = useBackupSearch(first)
  const fits = useFits(searched.found, sought, here)
  const [words, setWords] = useState('')
  const [onlyUseful, setOnlyUseful] = useState(false)
  const [chosen, choose] = useState<ReadonlySet<string>>(new Set())
  const { found } = searched
  const isUseful = (path: string) => USEFUL_FITS.includes(fits.get(path) ?? 'undated')
  const shown = useMemo(() => {
    const sought = words.toLowerCase().split(/\s+/).filter(Boolean)
    return found.filter(({ deviceName, path }) => {
      const text = `${deviceName ?? ''} ${path}`.toLowerCase()
      return sought.every((word) => text.includes(word))
    })
  }, [found, words])
  const rows = onlyUseful ? shown.filter(({ path }) => isUseful(path)) : shown
  // What was added meanwhile is in the job, and not chosen any more.
  const stillChosen = useMemo(
    () => found.filter(({ path }) => chosen.has(path) && fits.get(path) !== 'added'),
    [found, chosen, fits],
  )
  useEffect(() => {
    if (searched.state === 'running') choose(new Set())
  }, [searched.state])
  const useful = shown.filter(({ path }) => isUseful(path))
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_21rem] overflow-hidden max-lg:block max-lg:overflow-auto">
      <section aria-label="Backups found" className="flex min-h-0 min-w-0 flex-col gap-3 p-5 pb-0">
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault()
            void search(folder)
          }}
        >
          <label className="min-w-64 flex-1">
            <span className="mb-1 block">Disk or folder to search; empty: the usual ones and those of Settings</span>
            <input
              className="field font-mono text-sm"
              value={folder}
              onChange={(event) => setFolder(event.target.value)}
            />
          </label>
          <button type="submit" className="button">
            Search
          </button>
        </form>
        <Failure>{searched.failed}</Failure>
        <SearchState {...searched} />
        {found.length > 0 && (
          <div className="flex flex-wrap items-center gap-3">
            <input
              type="search"
              className="field !w-56"
              placeholder="Device or path"
              aria-label="Search these backups"
              value={words}
              onChange={(event) => setWords(event.target.value)}
            />
            <label className="flex items-center gap-2">
              <input type="checkbox" checked={onlyUseful} onChange={(event) => setOnlyUseful(event.target.checked)} />
              Only those that may help
            </label>
            <span className="text-soft" role="status">
              {formatCount(rows.length)} of {formatCount(found.length)} shown, {formatCount(useful.length)} may help
            </span>
            <button
              type="button"
              className="button ml-auto"
              disabled={useful.length === 0}
              onClick={() => choose(new Set(useful.map(({ path }) => path)))}
            >
              {useful.length === 0 ? 'None may help' : `Choose the ${formatCount(useful.length)} that may help`}
            </button>
          </div>
        )}
        <BackupTable found={rows} fits={fits} chosen={chosen} choose={choose} />
      </section>
      <aside aria-label="Add and read" className="space-y-6 overflow-auto border-l border-rule p-5">
        <AddChosen jobId={jobId} chosen={byFit(stillChosen, fits)} added={() => choose(new Set())} />
        <ReadSummary jobId={jobId} sources={here.sources} reads={reads} />
        <p>
          <a className="text-accent underline underline-offset-2" href={`/jobs/${jobId}/sources`}>
            Back to the sources of this job
          </a>
        </p>
      </aside>
    </div>
  )
}
