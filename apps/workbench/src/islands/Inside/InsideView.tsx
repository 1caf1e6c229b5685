import { useEffect, useMemo, useState } from 'react'
import { Failure } from '../../components/Failure.js'
import { Island } from '../../components/Island'
import { useAsk } from '../../components/useAsk'
import type { PageView } from '../../domain/contents'
import { formatBytes, formatCount } from '../../domain/format'
import { HexView } from './HexView'
import { PageMapCanvas } from './PageMapCanvas'
import { PageStripe } from './PageStripe'
import { RowList } from './RowList'
import { USES } from './uses'

interface Props {
  sourceId: number
  sourceName: string
  domain: string
  path: string
  page: number
  /** A byte of the database or of one of its logs, whose page image and row are shown first. */
  at: { file: PageView['file']; offset: number } | null
}

/** Inside a database file: the map of its pages, a page's parts, and its bytes. For checking a doubtful row. */
export function InsideView(props: Props) {
  return (
    <Island>
      <Inside {...props} />
    </Island>
  )
}

function Inside({ sourceId, sourceName, domain, path, page: first, at }: Props) {
  const { answer: map, failed: mapFailed } = useAsk('GET /api/sources/{source}/pages', {
    path: { source: sourceId },
    query: { domain, path },
  })
  const [asked, setAsked] = useState<{ page: number; at: Props['at'] }>({ page: first, at })
  const { answer: view, failed: viewFailed } = useAsk('GET /api/sources/{source}/pages/{page}', {
    path: { source: sourceId, page: asked.page },
    query: { domain, path, ...asked.at },
  })
  const failed = mapFailed || viewFailed
  const [row, setRow] = useState(-1)
  // Where the address names a byte, the row that begins there is chosen.
  useEffect(() => {
    const byte = view && asked.at ? asked.at.offset - view.offset : -1
    setRow(view?.rows.findIndex((one) => one.start === byte) ?? -1)
  }, [view, asked])
  const bytes = useMemo(() => (view ? Uint8Array.from(atob(view.bytes), (char) => char.charCodeAt(0)) : null), [view])
  const choosePage = (page: number) => setAsked({ page, at: null })
  return (
    <div className="grid min-h-0 flex-1 grid-cols-[minmax(0,5fr)_minmax(0,8fr)] overflow-hidden">
      <section aria-label="Pages of the file" className="overflow-auto border-r border-rule p-5">
        <h2 className="break-all">{path.split('/').at(-1)}</h2>
        <p className="mb-3 font-mono text-sm break-all text-soft">
          {sourceName}: {domain}/{path}
        </p>
        {!map && !failed && <p className="text-soft">Walking through the file's pages…</p>}
        {map && (
          <>
            <PageMapCanvas map={map} page={asked.page} choose={choosePage} />
            <ul className="mt-3 space-y-1 text-sm">
              {USES.filter((use) => map.counts[use.id]).map((use) => (
                <li key={use.id} className="flex items-center gap-2">
                  <span aria-hidden="true" className="size-3" style={{ background: `var(${use.color})` }} />
                  <span className="w-16 text-right">{formatCount(map.counts[use.id] ?? 0)}</span>
                  {use.label}
                </li>
              ))}
            </ul>
            <p className="mt-3 text-sm text-soft">
              {formatCount(map.pageCount)} pages of {formatBytes(map.pageSize)}
            </p>
          </>
        )}
      </section>
      <section aria-label="The page" className="flex min-h-0 flex-col gap-3 p-5">
        <Failure>{failed}</Failure>
        {view && bytes && map && (
          <>
            <PageHead view={view} pageCount={map.pageCount} choose={choosePage} />
            <PageStripe view={view} size={bytes.length} row={row} />
            <div className="grid min-h-0 flex-1 grid-rows-[minmax(0,2fr)_minmax(0,3fr)] gap-3">
              <RowList view={view} row={row} choose={setRow} />
              <HexView bytes={bytes} row={view.rows[row]} />
            </div>
          </>
        )}
      </section>
    </div>
  )
}

const FILES = { database: 'the database', wal: 'the write-ahead log', journal: 'the rollback journal' } as const

function PageHead({ view, pageCount, choose }: { view: PageView; pageCount: number; choose: (page: number) => void }) {
  return (
    <div className="flex items-baseline gap-4">
      <label className="flex items-baseline gap-2 font-semibold">
        Page
        <input
          type="number"
          className="field w-28"
          min={1}
          max={pageCount}
          value={view.page}
          onChange={(event) => {
            const page = event.target.valueAsNumber
            if (page >= 1 && page <= pageCount) choose(page)
          }}
        />
      </label>
      <p className="text-soft">
        {USES[view.use]?.label}
        {view.owner ? `, ${view.owner}` : ''}; in {FILES[view.file]} at byte {formatCount(view.offset)}
      </p>
    </div>
  )
}
