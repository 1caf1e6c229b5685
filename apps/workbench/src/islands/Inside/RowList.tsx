import { Scroller } from '../../components/Scroller'
import type { PageView, RowView } from '../../domain/contents'
import { tintOf } from './HexView'

/** The rows of a page, and the columns of the chosen one. */
export function RowList({ view, row, choose }: { view: PageView; row: number; choose: (row: number) => void }) {
  const chosen = view.rows[row]
  const rebuilt = view.rows.filter((one) => one.kind === 'rebuilt').length
  return (
    <div className="flex min-h-0 flex-col gap-3">
      <label className="block">
        <span className="mb-1 block text-sm text-soft">
          Rows on this page: {view.rows.length - rebuilt} live, {rebuilt} rebuilt
        </span>
        <select
          className="field"
          value={row}
          disabled={view.rows.length === 0}
          onChange={(event) => choose(Number(event.target.value))}
        >
          {view.rows.length === 0 && <option value={-1}>no rows</option>}
          {view.rows.length > 0 && <option value={-1}>none chosen</option>}
          {view.rows.map((one, i) => (
            <option key={one.start} value={i}>
              {nameOf(one)}
            </option>
          ))}
        </select>
      </label>
      {chosen && (
        <Scroller label="Columns of the row" className="min-h-0 overflow-auto">
          {chosen.kind === 'rebuilt' && (
            <p className="mb-2 text-sm">
              {Math.round(chosen.confidence * 100)}% sure:{' '}
              <span className="text-soft">{chosen.reasons.join('; ')}</span>
            </p>
          )}
          <table className="table table-dense text-sm">
            <thead>
              <tr>
                <th className="w-44">Column</th>
                <th className="w-28">Bytes</th>
                <th>Value</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <td className="tint-1">head</td>
                <td className="font-mono whitespace-nowrap">{bytesOf(chosen.start, chosen.body)}</td>
                <td className="text-soft">sizes and types</td>
              </tr>
              {chosen.columns.map((column, i) => (
                <tr key={column.name}>
                  <td className={`tint-${tintOf(i)}`}>{column.name}</td>
                  <td className="font-mono whitespace-nowrap">{bytesOf(column.start, column.end)}</td>
                  <td dir="auto" className="break-all">
                    {column.value ?? <span className="text-soft">lost</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </Scroller>
      )}
    </div>
  )
}

const nameOf = ({ kind, rowid, table, start }: RowView) =>
  `${kind === 'live' ? 'live' : 'rebuilt'} · ${table ?? 'no table'} · ${rowid === null ? 'row number lost' : `row ${rowid}`} · byte ${start}`

// NULL, 0 and 1 are told by their type alone.
const bytesOf = (start: number, end: number) => (end > start ? `${start}–${end - 1}` : 'in the head')
