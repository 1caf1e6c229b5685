import { useState } from 'react'
import { ask } from '../../api/client'
import { thumbnailAddress } from '../../components/addresses'
import { CloseButton, Dialog } from '../../components/Dialog'
import { Failure } from '../../components/Failure.js'
import { StandingMark } from '../../components/StandingMark'
import { useAct } from '../../components/useAct'
import { useAsk } from '../../components/useAsk'
import type { Copy, FindingLine } from '../../domain/finding'
import { formatBytes } from '../../domain/format'
import { CATEGORY_LABELS, COPY_REASON_WORDS } from '../../domain/labels'

/** Other places where this picture lives on, the largest first. */
export function Copies({ jobId, line }: { jobId: number; line: FindingLine }) {
  const request = { path: { finding: line.id } }
  const { answer, failed } = useAsk('GET /api/findings/{finding}/copies', request, { keep: false })
  const copies = answer ?? []
  const { act, failed: notPut } = useAct()
  const [compared, setCompared] = useState<Copy | null>(null)
  if (failed) return <Failure className="mt-4">{failed}</Failure>
  if (copies.length === 0) return null
  const put = (copy: Copy) =>
    act(() =>
      ask('POST /api/jobs/{job}/tray', {
        path: { job: jobId },
        body: copy.inTray ? { remove: [copy.id] } : { add: [copy.id] },
      }),
    )
  return (
    <section aria-label="Copies" className="mt-5">
      <h3 className="mb-1 font-semibold">Copies</h3>
      <ul className="divide-y divide-rule">
        {copies.map((copy, index) => (
          <li key={copy.id} className="flex gap-3 py-2">
            <button
              type="button"
              className="private h-16 w-16 shrink-0"
              onClick={() => setCompared(copy)}
              aria-label={`Compare with ${copy.title}`}
            >
              <img src={thumbnailAddress(copy.id)} alt="" className="h-16 w-16 rounded-sm object-cover" />
            </button>
            <div className="min-w-0 text-sm">
              <span className="private block truncate">{copy.title}</span>
              <span className="block text-soft">
                {copy.width && `${copy.width} × ${copy.height}, `}
                {formatBytes(copy.bytes)}
                {index === 0 && copies.length > 1 && ', the largest'} · {CATEGORY_LABELS[copy.category]}
              </span>
              <span className="block text-soft">{COPY_REASON_WORDS[copy.reason]}</span>
              <span className="mt-1 flex items-center gap-3">
                <StandingMark standing={copy.standing} label />
                <button type="button" className="text-accent underline underline-offset-2" onClick={() => put(copy)}>
                  {copy.inTray ? 'Take out of the tray' : 'Put in the tray'}
                </button>
              </span>
            </div>
          </li>
        ))}
      </ul>
      <Failure className="mt-2">{notPut}</Failure>
      {compared && <SideBySide line={line} copy={compared} close={() => setCompared(null)} />}
    </section>
  )
}

/** A picture and its copy beside each other. Escape closes them. */
function SideBySide({ line, copy, close }: { line: FindingLine; copy: Copy; close: () => void }) {
  return (
    <Dialog label="Side by side" close={close}>
      <CloseButton className="mb-3" />
      <div className="grid grid-cols-2 gap-4">
        {[
          { id: line.id, title: line.title, shown: line.hasContent },
          { id: copy.id, title: copy.title, shown: true },
        ].map(({ id, title, shown }) => (
          <figure key={id}>
            {shown ? (
              <img
                src={thumbnailAddress(id, 'large')}
                alt={title}
                className="private max-h-[75vh] w-[44vw] object-contain"
              />
            ) : (
              <p className="w-[44vw] text-soft">The picture itself is not in the source.</p>
            )}
            <figcaption className="private mt-2">{title}</figcaption>
          </figure>
        ))}
      </div>
    </Dialog>
  )
}
