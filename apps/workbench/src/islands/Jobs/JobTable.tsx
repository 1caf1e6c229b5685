import { createColumnHelper, useTable } from '@tanstack/react-table'
import { useVirtualizer } from '@tanstack/react-virtual'
import { useMemo, useRef, useState } from 'react'
import { useHotkeys } from 'react-hotkeys-hook'
import { Island } from '../../components/Island'
import { Scroller } from '../../components/Scroller'
import { ariaSort, Gap, SortButton, sortable } from '../../components/sortedTables'
import { useAsk } from '../../components/useAsk'
import { plural } from '../../domain/format'
import type { JobLine } from '../../domain/job-queue'
import { type JobStage, STAGES } from '../../domain/job-stages'
import type { Wire } from '../../domain/wire'
import { FirstStart } from './FirstStart'
import { StageFilter } from './StageFilter'

type Line = Wire<JobLine>

const column = createColumnHelper<typeof sortable, Line>()

/** A day that is missing stands behind all others. */
const NEVER = '9999'
const columns = column.columns([
  column.accessor('number', { header: 'Job', sortFn: 'text' }),
  column.accessor('owner', { header: 'Owner', sortFn: 'text' }),
  column.accessor('sought', { header: 'Sought', enableSorting: false }),
  column.accessor('stage', { header: 'State and next step', sortFn: 'text' }),
  column.accessor(({ due }) => due ?? NEVER, { id: 'due', header: 'Due', sortFn: 'basic' }),
  column.accessor('keepUntil', { header: 'Keep until', sortFn: 'basic' }),
])

const ROW = 58

/** The queue of the shop: what is overdue first, then what is due. */
export function JobTable({ jobs }: { jobs: Line[] }) {
  return (
    <Island>
      <Queue jobs={jobs} />
    </Island>
  )
}

const textOf = ({ number, owner, contact, device, sought }: Line) =>
  `${number} ${owner} ${contact} ${device} ${sought}`.toLowerCase()

const LOOK_MS = 5000

function Queue({ jobs: first }: { jobs: Line[] }) {
  const jobs = useAsk('GET /api/jobs', {}, { first, every: LOOK_MS }).answer ?? first
  const [words, setWords] = useState('')
  const [stage, setStage] = useState<JobStage | null>(null)
  const field = useRef<HTMLInputElement>(null)
  const box = useRef<HTMLDivElement>(null)
  useHotkeys('/', () => field.current?.focus(), { useKey: true, preventDefault: true })
  const step = (by: number) => {
    const links = [...(box.current?.querySelectorAll<HTMLElement>('[data-job]') ?? [])]
    links[Math.max(0, links.indexOf(document.activeElement as HTMLElement) + by)]?.focus()
  }
  useHotkeys('down', () => step(1), { preventDefault: true })
  useHotkeys('up', () => step(-1), { preventDefault: true })
  const shown = useMemo(() => {
    const sought = words.toLowerCase().split(/\s+/).filter(Boolean)
    return jobs.filter((job) => (!stage || job.stage === stage) && sought.every((word) => textOf(job).includes(word)))
  }, [jobs, stage, words])
  const table = useTable({ features: sortable, columns, data: shown })
  const { rows } = table.getRowModel()
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 8,
    // Rows that come with the page, before it is known how high it is.
    initialRect: { width: 1280, height: 700 },
  })
  if (jobs.length === 0) return <FirstStart />
  return (
    <div className="flex min-h-0 flex-1 flex-col p-5 pb-0">
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <h1 className="mr-2">Jobs</h1>
        <input
          ref={field}
          type="search"
          className="field !w-72"
          placeholder="Owner, device, number  ( / )"
          aria-label="Search the jobs"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <StageFilter jobs={jobs} stage={stage} choose={setStage} />
        <a href="/jobs/new" className="button button-main ml-auto">
          New job
        </a>
      </div>
      <Scroller ref={box} label="Queue" className="min-h-0 flex-1 overflow-auto">
        <table className="table min-w-[60rem] table-fixed">
          <thead className="sticky top-0 z-10 bg-paper">
            {table.getHeaderGroups().map((group) => (
              <tr key={group.id}>
                {group.headers.map((header) => (
                  <th
                    key={header.id}
                    className={WIDTHS[header.column.id]}
                    aria-sort={ariaSort(header.column.getIsSorted())}
                  >
                    {header.column.getCanSort() ? (
                      <SortButton sorted={header.column.getIsSorted()} toggle={header.column.getToggleSortingHandler()}>
                        <table.FlexRender header={header} />
                      </SortButton>
                    ) : (
                      <table.FlexRender header={header} />
                    )}
                  </th>
                ))}
              </tr>
            ))}
          </thead>
          <tbody>
            <Gap height={virtual.getVirtualItems()[0]?.start ?? 0} columns={columns.length} />
            {virtual.getVirtualItems().map(({ index }) => {
              const row = rows[index]
              return row && <JobLineRow key={row.id} job={row.original} />
            })}
            <Gap
              height={virtual.getTotalSize() - (virtual.getVirtualItems().at(-1)?.end ?? 0)}
              columns={columns.length}
            />
          </tbody>
        </table>
        {rows.length === 0 && <p className="mt-4 text-soft">No job has that. Take a word or the state away.</p>}
      </Scroller>
    </div>
  )
}

const WIDTHS: Record<string, string> = {
  number: 'w-40',
  owner: 'w-48',
  stage: 'w-52',
  due: 'w-32',
  keepUntil: 'w-28',
}

function JobLineRow({ job }: { job: Line }) {
  const { label, next, view } = STAGES[job.stage]
  return (
    <tr className="hover:bg-sunk">
      <td className="font-mono text-sm whitespace-nowrap">
        <a data-job href={`/jobs/${job.id}/answer`} className="text-accent underline-offset-2 hover:underline">
          {job.number}
        </a>
      </td>
      <td className="private">
        <span className="block truncate font-semibold">{job.owner}</span>
        <span className="block truncate text-sm text-soft">{job.contact || job.device || 'no contact noted'}</span>
      </td>
      <td>
        <span className="private line-clamp-1" title={job.sought}>
          {job.sought}
        </span>
        <span className="block truncate text-sm text-soft">
          {plural(job.sources, 'source')} · {plural(job.findings, 'finding')} ·{' '}
          {job.tray > 0 ? `${plural(job.tray, 'item')} in the tray` : 'tray empty'}
        </span>
      </td>
      <td>
        <a href={`/jobs/${job.id}/${view}`} className="text-accent underline underline-offset-2">
          {next}
        </a>
        <span className="block text-sm text-soft">{label}</span>
      </td>
      <td className="whitespace-nowrap">
        {job.due ?? '–'}
        {job.overdue && <span className="block text-sm font-semibold text-partial">overdue</span>}
      </td>
      <td className="whitespace-nowrap">{job.stage === 'purged' ? '–' : job.keepUntil}</td>
    </tr>
  )
}
