import type { Json } from '@lumbrin/core/categories/types'
import { useMemo, useState } from 'react'
import { addressOf, ask, wordsOf } from '../../api/client'
import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import { useAsk } from '../../components/useAsk'
import type { FileLine, FilePeek, TablePeek } from '../../domain/contents'
import { formatBytes } from '../../domain/format'
import { HexView } from '../Inside/HexView'

/** One file: looked into by what it is, saved, or put into the tray. */
export function FilePane({ sourceId, file }: { sourceId: number; file: FileLine }) {
  const [table, setTable] = useState('')
  const [said, setSaid] = useState('')
  const path = { source: sourceId }
  const place = { domain: file.domain, path: file.path }
  const content = addressOf('GET /api/sources/{source}/files/content', { path, query: place })
  const { answer, failed } = useAsk('GET /api/sources/{source}/files/peek', {
    path,
    query: table ? { ...place, table } : place,
  })
  const pick = () =>
    ask('POST /api/sources/{source}/files/tray', { path, body: place }).then(
      () => setSaid('It is in the tray.'),
      (thrown) => setSaid(wordsOf(thrown)),
    )
  return (
    <section aria-label="The file" className="flex min-h-0 flex-col gap-3 p-5">
      <div className="flex items-baseline gap-3">
        <h3 className="min-w-0 font-semibold break-all">{file.name}</h3>
        <span className="text-soft">{formatBytes(file.bytes)}</span>
        <span className="ml-auto flex gap-2">
          <button type="button" className="button" onClick={pick}>
            Put in the tray
          </button>
          <a className="button" href={content} download={file.name}>
            Save
          </a>
        </span>
      </div>
      {said && <p role="status">{said}</p>}
      <Failure>{failed}</Failure>
      {answer?.kind === 'picture' && <img src={content} alt={file.name} className="min-h-0 object-contain" />}
      {answer?.kind === 'text' && (
        <Scroller className="min-h-0 flex-1 overflow-auto" label="Text">
          <pre className="text-sm break-words whitespace-pre-wrap">{answer.text}</pre>
          {answer.cut && <p className="text-soft">Only the first part is shown.</p>}
        </Scroller>
      )}
      {answer?.kind === 'plist' && (
        <Scroller className="min-h-0 flex-1 overflow-auto" label="Property list">
          <Plist name="top" value={answer.value} open />
        </Scroller>
      )}
      {answer?.kind === 'database' && <Tables peek={answer} choose={setTable} />}
      {answer?.kind === 'bytes' && <Bytes base64={answer.base64} />}
    </section>
  )
}

function Bytes({ base64 }: { base64: string }) {
  const bytes = useMemo(() => Uint8Array.from(atob(base64), (char) => char.charCodeAt(0)), [base64])
  return <HexView bytes={bytes} row={undefined} />
}

/** A property list as a tree that opens level by level. */
function Plist({ name, value, open = false }: { name: string; value: Json; open?: boolean }) {
  if (typeof value !== 'object' || value === null)
    return (
      <p className="py-0.5 break-all">
        <span className="text-soft">{name}:</span> {value === null ? 'null' : String(value)}
      </p>
    )
  const inner = Object.entries(value)
  return (
    <details open={open} className="py-0.5">
      <summary>
        <span className="text-soft">{name}</span> ({inner.length})
      </summary>
      <div className="border-l border-rule pl-4">
        {inner.map(([key, one]) => (
          <Plist key={key} name={key} value={one} />
        ))}
      </div>
    </details>
  )
}

function Tables({ peek, choose }: { peek: Extract<FilePeek, { kind: 'database' }>; choose: (table: string) => void }) {
  if (!peek.table) return <p className="text-soft">This database has no tables.</p>
  return (
    <>
      <label className="flex items-center gap-2">
        Table
        <select className="field !w-auto" value={peek.table.name} onChange={(event) => choose(event.target.value)}>
          {peek.tables.map((name) => (
            <option key={name}>{name}</option>
          ))}
        </select>
      </label>
      <Scroller className="min-h-0 flex-1 overflow-auto" label="Rows">
        <Rows table={peek.table} />
      </Scroller>
    </>
  )
}

function Rows({ table }: { table: TablePeek }) {
  if (table.rows.length === 0) return <p className="text-soft">This table has no live rows.</p>
  return (
    <>
      <table className="table table-dense text-sm">
        <thead>
          <tr>
            {table.columns.map((column) => (
              <th key={column}>{column}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: rows of any table may be equal
            <tr key={i}>
              {row.map((cell, column) => (
                <td key={table.columns[column]} className="max-w-64 truncate">
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {table.more && <p className="text-soft">Only the first 100 rows are shown.</p>}
    </>
  )
}
