import { Failure } from '../../components/Failure.js'
import { Scroller } from '../../components/Scroller'
import { useAsk } from '../../components/useAsk'
import type { PartSize } from '../../domain/contents'
import { formatBytes, formatCount } from '../../domain/format'
import { CATEGORY_LABELS } from '../../domain/labels'

/** Counts and sizes by category and by domain. */
export function Overview({ sourceId }: { sourceId: number }) {
  const { answer, failed } = useAsk('GET /api/sources/{source}/overview', { path: { source: sourceId } })
  if (failed) return <Failure className="m-5">{failed}</Failure>
  if (!answer) return <p className="p-5 text-soft">Counting…</p>
  return (
    <Scroller label="What the source holds" className="grid min-h-0 flex-1 grid-cols-2 gap-10 overflow-auto p-5">
      <Parts
        title="By category"
        note="Files that each category is read from. What is in them, a read tells."
        parts={answer.categories.map((part) => ({ ...part, name: CATEGORY_LABELS[part.category] }))}
      />
      <Parts
        title="By domain"
        note="The areas of the device, as the source names them."
        parts={answer.domains.map((part) => ({ ...part, name: part.domain }))}
      />
    </Scroller>
  )
}

function Parts({ title, note, parts }: { title: string; note: string; parts: (PartSize & { name: string })[] }) {
  return (
    <section aria-label={title}>
      <h3 className="font-semibold">{title}</h3>
      <p className="mb-2 text-sm text-soft">{note}</p>
      <table className="table table-dense">
        <thead>
          <tr>
            <th>Name</th>
            <th className="figure">Files</th>
            <th className="figure">Size</th>
          </tr>
        </thead>
        <tbody>
          {parts.map((part) => (
            <tr key={part.name}>
              <td className="break-all">{part.name}</td>
              <td className="figure">{formatCount(part.files)}</td>
              <td className="figure whitespace-nowrap">{formatBytes(part.bytes)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  )
}
